import { DropdownMenu, Popover } from 'radix-ui';
import { type ReactNode, useState } from 'react';
import { Link, useParams } from 'react-router';
import type { RuleTrace } from '../api/client';
import {
  type Cell,
  type ChangeTree,
  changeField,
  changeKind,
  type FieldTree,
  fieldsWritten,
  type LookUpTree,
  type RuleTree,
  type StartTree,
  settable,
  typesOf,
} from '../api/trees';
import { useKeys } from '../app/keys';
import type { Lexicon } from '../app/lexicon';
import { sayTest, sentence } from '../app/sentence';
import { type EditedPart, usePart } from '../app/usePart';
import { useWorkshop } from '../app/workshop';
import { Conflict } from '../parts/Conflict';
import { ConditionEditor } from '../parts/condition/ConditionEditor';
import { FormulaInput } from '../parts/FormulaInput';
import { Grid, type GridColumn } from '../parts/Grid';
import { InPlaceText } from '../parts/InPlaceText';
import { mark } from '../parts/marks';
import { ProblemNote } from '../parts/ProblemNote';
import { RemovePart } from '../parts/RemovePart';
import { useFieldSuggestions } from '../parts/useFieldSuggestions';
import { useMentions } from '../parts/useMentions';
import { useWorld } from '../parts/useWorld';
import { SampleOutcome } from './SampleOutcome';

const WHEN: Record<string, string> = {
  always: 'always',
  empty: 'only when empty',
  higher: 'keeps the higher',
  lower: 'keeps the lower',
};

function Line({ title, children, margin }: { title: string; children: ReactNode; margin?: ReactNode }) {
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_286px]">
      <div className="flex min-h-[44px] items-start gap-4 border-b border-faint py-2.5 pr-3 pl-4">
        <h2 className="w-[60px] shrink-0 pt-1">{title}</h2>
        <div className="flex min-w-0 flex-1 flex-wrap items-center gap-x-2.5 gap-y-1.5">{children}</div>
      </div>
      <div
        className="border-b border-l border-b-line border-l-ink bg-paper px-3.5 py-2.5 text-[13px]"
        data-test={`margin-${title}`}
      >
        {margin}
      </div>
    </div>
  );
}

function StartChip({
  start,
  rule,
  lexicon,
  onChange,
  onRemove,
}: {
  start: StartTree;
  rule: RuleTree;
  lexicon: Lexicon;
  onChange: (start: StartTree) => void;
  onRemove: () => void;
}) {
  const single = start !== 'created' && start.changed.length === 1;
  const field = start === 'created' ? '' : (start.changed[0] ?? '');
  return (
    <Popover.Root>
      <Popover.Trigger className="chip">
        {start === 'created' ? (
          'created'
        ) : (
          <span>
            change of{' '}
            {start.changed.map((key, i) => (
              <span key={key}>
                {i > 0 && ' or '}
                <b>{lexicon.label(typesOf(rule), key)}</b>
              </span>
            ))}
            {start.from !== undefined && ` from ${sayTest(start.from, rule, field, lexicon)}`}
            {start.to !== undefined && ` to ${sayTest(start.to, rule, field, lexicon)}`}
          </span>
        )}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="menu w-[300px] p-3!" align="start" sideOffset={4}>
          {single && (
            <>
              {(['from', 'to'] as const).map((end) => (
                <label key={end} className="mb-2 flex items-center gap-2">
                  <span className="w-12">{end}</span>
                  <FormulaInput
                    value={start[end] === undefined ? '' : String(start[end])}
                    placeholder="anything"
                    dialect="unaryTests"
                    label={`${end} what`}
                    onKeep={(text) => {
                      const { [end]: _, ...rest } = start;
                      onChange(text === '' ? rest : { ...rest, [end]: text });
                    }}
                  />
                </label>
              ))}
              <p className="soft mb-2 text-[12.5px]">
                Tests, such as <span className="mono">"closed"</span> or <span className="mono">&gt; 4</span>.
              </p>
            </>
          )}
          <button type="button" className="btn" onClick={onRemove}>
            Remove this start
          </button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function FieldMenu({
  label,
  fields,
  onPick,
  extra,
}: {
  label: ReactNode;
  fields: FieldTree[];
  onPick: (key: string) => void;
  extra?: { label: string; act: () => void }[];
}) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="link">{label}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="menu" align="start" sideOffset={4}>
          {extra?.map((item) => (
            <DropdownMenu.Item key={item.label} className="menu-item" onSelect={item.act}>
              {item.label}
            </DropdownMenu.Item>
          ))}
          {fields.map((field) => (
            <DropdownMenu.Item key={field.key} className="menu-item" onSelect={() => onPick(field.key)}>
              <span>{field.label}</span>
              <span className="soft mono">{field.key}</span>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function StartsMargin({
  look,
  created,
  lexicon,
  type,
}: {
  look: RuleTrace | undefined;
  created: string;
  lexicon: Lexicon;
  type: string;
}) {
  if (!look) return <span className="soft">· not due in this step</span>;
  const m = mark(look.status);
  const field = lexicon.field(type, look.why.field ?? '');
  return (
    <span className="flex justify-between gap-2">
      <span>
        due:{' '}
        {look.why.kind === 'created'
          ? created
          : `${(field?.label ?? '').toLowerCase()} ${lexicon.say(look.why.from, field)} → ${lexicon.say(look.why.to, field)}`}
      </span>
      <span title={m.words} className={m.tone}>
        {m.sign}
      </span>
    </span>
  );
}

function RowMargin({
  look,
  row,
  type,
  lexicon,
}: {
  look: RuleTrace | undefined;
  row: number;
  type: string;
  lexicon: Lexicon;
}) {
  const seen = look?.rows?.find((r) => r.row === row);
  if (!look || !seen) return <span className="soft">{look ? 'not read' : ''}</span>;
  if (seen.failed) {
    const check = look.checks?.find((c) => c.column === seen.failed?.column);
    const field = lexicon.field(type, check?.of ?? '');
    return (
      <span className="flex justify-between gap-2">
        <span className="truncate">
          {(field?.label ?? check?.of ?? '').toLowerCase()} {lexicon.say(check?.value, field)}, not{' '}
          <span className="mono">{seen.failed.test}</span>
        </span>
        <span className="text-red">✗</span>
      </span>
    );
  }
  const changes = (look.changes ?? []).filter((change) => change.row === row);
  return (
    <span className="flex justify-between gap-2" data-test="margin-hit">
      <span className="truncate">
        {changes.map((change) => {
          const field = lexicon.field(type, change.field);
          const label = (field?.label ?? change.field).toLowerCase();
          return (
            <span key={change.column} className="mr-2" title={change.problem ?? change.why}>
              {change.made ? (
                <span className="now">
                  {label} {lexicon.sayChange(change.before, change.after, field)}
                </span>
              ) : (
                <span className={change.problem ? 'text-red' : 'soft'}>
                  {label} {change.problem ? 'problem' : change.why}
                </span>
              )}
            </span>
          );
        })}
        {changes.length === 0 && <span className="soft">fits, nothing to change</span>}
      </span>
      <span className="text-teal">✓</span>
    </span>
  );
}

function AlsoTouch({ rule }: { rule: RuleTree }) {
  const { rules, lexicon } = useWorkshop();
  const mentions = useMentions();
  const at = rules.findIndex((r) => r.tree.key === rule.key);
  const others = rules.map((r, i) => ({ tree: r.tree, i })).filter((r) => r.i !== at);
  const link = (tree: RuleTree, i: number) => (
    <Link
      key={tree.key}
      to={`/rulebook/${tree.key}`}
      className="mr-2 underline decoration-line underline-offset-2 hover:decoration-ink"
    >
      {i + 1} {tree.title}
    </Link>
  );
  const entries = fieldsWritten(rule).map((key) => {
    const touching = (writes: boolean) => {
      const keys = new Set(
        mentions
          .filter((m) => m.kind === 'rules' && m.field === key && typesOf(rule).includes(m.type))
          .filter((m) => m.option === null && m.writes === writes)
          .map((m) => m.key),
      );
      return others.filter((r) => keys.has(r.tree.key));
    };
    return { key, writers: touching(true), readers: touching(false), link };
  });
  if (entries.every((e) => e.writers.length === 0 && e.readers.length === 0)) return null;
  return (
    <section className="border-b border-faint px-4 py-3">
      <h2 className="mb-1">Also touch these fields</h2>
      {entries.map(({ key, writers, readers, link }) => (
        <p key={key} className="leading-6">
          <span className="mr-3 text-plum">{lexicon.label(typesOf(rule), key).toLowerCase()}</span>
          {writers.length > 0 && (
            <>
              <span className="soft">written also by </span>
              {writers.map((r) => link(r.tree, r.i))}
              {writers.some((r) => r.i > at) && <span className="mr-3 text-ochre">later rules may overrule</span>}
            </>
          )}
          {readers.length > 0 && (
            <>
              <span className="soft">read by </span>
              {readers.map((r) => link(r.tree, r.i))}
            </>
          )}
          {writers.length === 0 && readers.length === 0 && <span className="soft">nobody else</span>}
        </p>
      ))}
    </section>
  );
}

function LookUps({
  edited,
  look,
  lexicon,
}: {
  edited: EditedPart<RuleTree>;
  look: RuleTrace | undefined;
  lexicon: Lexicon;
}) {
  const { tree, edit, typing, errors } = edited;
  const world = useWorld(tree);
  const list = tree.look_ups ?? [];
  const put = (i: number, lookUp: LookUpTree | null): RuleTree => ({
    ...tree,
    look_ups: list.flatMap((old, j) => (j === i ? (lookUp ? [lookUp] : []) : [old])),
  });
  return (
    <Line
      title="Looks up"
      margin={list.map((l) => {
        const found = look?.look_ups.find((f) => f.name === l.name);
        return (
          <div key={l.name} className="leading-[30px]">
            <span className="mono">{l.name}</span>{' '}
            {found ? (
              <>
                {lexicon.guess(found.value)}{' '}
                {typeof found.value === 'string' && lexicon.guess(found.value) !== found.value && (
                  <span className="mono soft">{found.value}</span>
                )}
              </>
            ) : (
              <span className="soft">not read</span>
            )}
          </div>
        );
      })}
    >
      {list.map((l, i) => (
        <div key={i} className="flex w-full items-center gap-2">
          <InPlaceText
            value={l.name}
            label="Name of the look-up"
            className="mono w-[110px] font-semibold"
            onKeep={(name) => edit(put(i, { ...l, name }))}
          />
          <span className="soft">is</span>
          <FormulaInput
            value={String(l.value)}
            label={`Value of ${l.name}`}
            mistake={errors.get(`/look_ups/${i}/value`)}
            world={world}
            onTyping={(text) => typing(text === null ? null : put(i, { ...l, value: text }))}
            onKeep={(text) => edit(put(i, { ...l, value: text }))}
          />
          <span className="soft">none found:</span>
          <select
            className="field"
            aria-label={`When ${l.name} finds nothing`}
            value={l.none === undefined || l.none === null ? 'null' : typeof l.none === 'string' ? l.none : 'use'}
            onChange={(e) => {
              const { none: _, ...rest } = l;
              const none = e.target.value === 'use' ? { use: 'null' } : e.target.value;
              edit(put(i, e.target.value === 'null' ? rest : { ...rest, none }));
            }}
          >
            <option value="null">leave empty</option>
            <option value="skip_rule">skip the rule</option>
            <option value="problem">report a problem</option>
            <option value="use">use instead …</option>
          </select>
          {typeof l.none === 'object' && l.none !== null && (
            <FormulaInput
              value={String(l.none.use)}
              label={`Instead of ${l.name}`}
              mistake={errors.get(`/look_ups/${i}/none/use`)}
              world={world}
              onKeep={(text) => edit(put(i, { ...l, none: { use: text } }))}
            />
          )}
          <button type="button" className="soft" aria-label={`Remove ${l.name}`} onClick={() => edit(put(i, null))}>
            ×
          </button>
        </div>
      ))}
      <button
        type="button"
        className="link"
        onClick={() => {
          let n = 1;
          while (list.some((l) => l.name === `found${n}`)) n++;
          edit({ ...tree, look_ups: [...list, { name: `found${n}`, value: 'null' }] });
        }}
      >
        + look-up
      </button>
    </Line>
  );
}

/** The rule with another condition; an empty one leaves it out. */
function onlyIf({ only_if: _, ...rest }: RuleTree, text: string): RuleTree {
  return text === '' ? rest : { ...rest, only_if: text };
}

function Sheet({ edited }: { edited: EditedPart<RuleTree> }) {
  const shop = useWorkshop();
  const { tree, edit, typing, errors } = edited;
  const { lexicon } = shop;
  const [adding, setAdding] = useState<'check' | null>(null);
  const types = typesOf(tree);
  const fields = settable(lexicon.type(types[0] ?? ''));
  const look = shop.lookOf(tree.key);
  const event = shop.traced?.trace?.event;
  const world = useWorld(tree);
  const suggest = useFieldSuggestions(tree);
  const checks = tree.checks ?? [];

  useKeys({
    'Ctrl+z': edited.undo,
    'Ctrl+Shift+z': edited.redo,
    'Ctrl+y': edited.redo,
  });

  const withColumn = (side: 'if' | 'then', act: (cells: Cell[]) => Cell[]) =>
    tree.rows.map((row) => ({ ...row, [side]: act(row[side]) }));
  const shift = <T,>(list: T[], from: number, by: number): T[] => {
    const next = [...list];
    const [moved] = next.splice(from, 1);
    if (moved !== undefined) next.splice(from + by, 0, moved);
    return next;
  };
  const addCheck = (of: string) => {
    setAdding(null);
    edit({ ...tree, checks: [...checks, { of }], rows: withColumn('if', (cells) => [...cells, '-']) });
  };
  const addChange = (change: ChangeTree) =>
    edit({ ...tree, changes: [...tree.changes, change], rows: withColumn('then', (cells) => [...cells, '-']) });

  const columns: GridColumn[] = [
    ...checks.map((check, i): GridColumn => {
      const of = String(check.of);
      const field = lexicon.field(types, of);
      const { suggestions, say } = suggest(field, true);
      return {
        id: `if ${i} ${of}`,
        side: 'if',
        head: (
          <>
            <b className="block truncate">
              {field?.label ?? (tree.look_ups?.some((l) => l.name === of) ? 'Look-up' : 'Formula')}
            </b>
            <span className={`mono ${errors.has(`/checks/${i}/of`) ? 'text-red' : 'soft'}`}>{of}</span>
          </>
        ),
        menu: [
          {
            label: 'Move left',
            off: i === 0,
            act: () =>
              edit({ ...tree, checks: shift(checks, i, -1), rows: withColumn('if', (cells) => shift(cells, i, -1)) }),
          },
          {
            label: 'Move right',
            off: i === checks.length - 1,
            act: () =>
              edit({ ...tree, checks: shift(checks, i, 1), rows: withColumn('if', (cells) => shift(cells, i, 1)) }),
          },
          {
            label: 'Remove this check',
            act: () =>
              edit({
                ...tree,
                checks: checks.filter((_, j) => j !== i),
                rows: withColumn('if', (cells) => cells.filter((_, j) => j !== i)),
              }),
          },
        ],
        suggestions,
        say,
      };
    }),
    ...tree.changes.map((change, i): GridColumn => {
      const kind = changeKind(change);
      const key = changeField(change);
      const field = lexicon.field(types, key);
      const { suggestions, say } = suggest(kind === 'clear' ? undefined : field, false);
      const put = (next: ChangeTree) =>
        edit({ ...tree, changes: tree.changes.map((old, j) => (j === i ? next : old)) });
      const ordered = ['number', 'percent', 'choice', 'state', 'date', 'date_time', 'duration'].includes(
        field?.type ?? '',
      );
      return {
        id: `then ${i} ${kind} ${key}`,
        side: 'then',
        composes:
          kind === 'set' && ['text', 'long_text', 'rich_text'].includes(field?.type ?? '')
            ? lexicon.type(types[0] ?? '')?.title
            : undefined,
        head: (
          <>
            <b className="block truncate">
              {kind === 'add' ? 'add to' : kind} {field?.label ?? key}
            </b>
            <span className="soft mono">
              {kind === 'set' ? WHEN[change.when ?? 'always'] : kind === 'add' ? 'keeps the rest' : 'yes or no'}
            </span>
          </>
        ),
        menu: [
          ...(kind === 'set'
            ? Object.entries(WHEN)
                .filter(
                  ([when]) => when !== (change.when ?? 'always') && (ordered || !['higher', 'lower'].includes(when)),
                )
                .map(([when, words]) => ({
                  label: `Set ${words}`,
                  act: () => put(when === 'always' ? { set: key } : { set: key, when }),
                }))
            : []),
          {
            label: 'Move left',
            off: i === 0,
            act: () =>
              edit({
                ...tree,
                changes: shift(tree.changes, i, -1),
                rows: withColumn('then', (cells) => shift(cells, i, -1)),
              }),
          },
          {
            label: 'Move right',
            off: i === tree.changes.length - 1,
            act: () =>
              edit({
                ...tree,
                changes: shift(tree.changes, i, 1),
                rows: withColumn('then', (cells) => shift(cells, i, 1)),
              }),
          },
          {
            label: 'Remove this change',
            off: tree.changes.length === 1,
            act: () =>
              edit({
                ...tree,
                changes: tree.changes.filter((_, j) => j !== i),
                rows: withColumn('then', (cells) => cells.filter((_, j) => j !== i)),
              }),
          },
        ],
        suggestions,
        say,
      };
    }),
  ];
  const at = shop.rules.findIndex((r) => r.tree.key === tree.key);
  const hits = (row: number) => look?.rows?.some((r) => r.row === row && r.fits) ?? false;
  const seen = (look?.checks ?? []).map((c) => lexicon.say(c.value, lexicon.field(event?.type ?? '', c.of)));
  return (
    <main className="h-full overflow-auto bg-sheet" data-test="rule-sheet">
      <div className="border-b border-line bg-paper px-4 pt-2.5 pb-3">
        <div className="flex items-center gap-3 text-[13px]">
          <Link to="/rulebook" className="soft hover:underline">
            Rulebook
          </Link>
          <span className="soft">
            › {at + 1} of {shop.rules.length}
          </span>
          <span className="mono soft">{tree.key}</span>
          {tree.owner && <span className="soft">owner {lexicon.person(tree.owner)}</span>}
          <label className="soft flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={tree.enabled ?? true}
              onChange={(e) => edit({ ...tree, enabled: e.target.checked })}
            />{' '}
            in use
          </label>
          <span className="flex-1" />
          <span className={edited.status === 'not saved' ? 'font-semibold text-red' : 'soft'} data-test="save-state">
            {edited.status}
          </span>
          <button type="button" className="soft" disabled={!edited.canUndo} onClick={edited.undo} aria-label="Undo">
            undo <span className="key">Ctrl Z</span>
          </button>
          <button type="button" className="soft" disabled={!edited.canRedo} onClick={edited.redo} aria-label="Redo">
            redo
          </button>
          <RemovePart kind="rules" part={edited.part} title={tree.title} what="rule" to="/rulebook">
            remove
          </RemovePart>
        </div>
        <h1 className="mt-1">
          <InPlaceText value={tree.title} label="Title of the rule" onKeep={(title) => edit({ ...tree, title })} />
        </h1>
        <p className="mt-1 max-w-[110ch] text-[15.5px] leading-6" data-test="sentence">
          {sentence(tree, lexicon).map((piece, i) => (
            <span
              key={i}
              className={
                piece.tone === 'strong'
                  ? 'font-bold'
                  : piece.tone === 'written'
                    ? 'font-bold text-plum'
                    : piece.tone === 'term'
                      ? 'underline decoration-line underline-offset-4'
                      : ''
              }
            >
              {piece.text}
            </span>
          ))}
        </p>
        <ProblemNote problem={edited.note} />
      </div>

      <Line
        title="Starts on"
        margin={
          <StartsMargin
            look={look}
            created={`created by ${lexicon.person(event?.by)}`}
            lexicon={lexicon}
            type={event?.type ?? ''}
          />
        }
      >
        {tree.starts.map((start, i) => (
          <span key={JSON.stringify(start)} className="flex items-center gap-2.5">
            {i > 0 && <span className="soft">or</span>}
            <StartChip
              start={start}
              rule={tree}
              lexicon={lexicon}
              onChange={(next) => edit({ ...tree, starts: tree.starts.map((old, j) => (j === i ? next : old)) })}
              onRemove={() => edit({ ...tree, starts: tree.starts.filter((_, j) => j !== i) })}
            />
          </span>
        ))}
        <FieldMenu
          label="+ start"
          fields={fields}
          extra={
            tree.starts.includes('created')
              ? []
              : [{ label: 'it is created', act: () => edit({ ...tree, starts: ['created', ...tree.starts] }) }]
          }
          onPick={(key) => edit({ ...tree, starts: [...tree.starts, { changed: [key] }] })}
        />
      </Line>
      <Line
        title="Only if"
        margin={
          look?.only_if ? (
            <span className="flex justify-between gap-2">
              <span className="min-w-0">
                {Object.entries((look.only_if.reads ?? {}) as Record<string, unknown>).map(([path, value]) => (
                  <span key={path} className="block truncate">
                    <span className="soft">{lexicon.label(types, path)}</span>{' '}
                    {lexicon.say(value, lexicon.field(types, path))}
                  </span>
                ))}
              </span>
              {look.only_if.result === true ? (
                <span className="text-teal">✓</span>
              ) : (
                <span className="text-red">✗</span>
              )}
            </span>
          ) : (
            <span className="soft">{tree.only_if === undefined ? 'no condition' : 'not read'}</span>
          )
        }
      >
        <ConditionEditor
          formula={tree.only_if === undefined ? '' : String(tree.only_if)}
          label="Only if"
          world={world}
          own={lexicon.type(types[0] ?? '')?.title ?? 'The record'}
          mistake={errors.get('/only_if')}
          onTyping={(text) => typing(text === null ? null : onlyIf(tree, text))}
          onKeep={(text) => edit(onlyIf(tree, text))}
        />
      </Line>
      <LookUps edited={edited} look={look} lexicon={lexicon} />

      <Grid
        columns={columns}
        rows={tree.rows}
        lexicon={lexicon}
        onRows={(rows) => edit({ ...tree, rows })}
        onTyping={(rows) => typing(rows === null ? null : { ...tree, rows })}
        wrong={(row, side, index) => errors.get(`/rows/${row}/${side}/${index}`)}
        world={world}
        hit={hits}
        marginHead={
          <span className="text-[13px]">
            <b>This sample</b> <span className="soft">{look ? seen.join(' · ') : 'does not reach the grid'}</span>
          </span>
        }
        margin={(row) => <RowMargin look={look} row={row} type={event?.type ?? ''} lexicon={lexicon} />}
      />
      <div className="grid grid-cols-[minmax(0,1fr)_286px]">
        <div>
          <div className="flex items-center gap-4 border-b border-line px-4 py-2.5">
            <button
              type="button"
              className="link"
              onClick={() =>
                edit({
                  ...tree,
                  rows: [...tree.rows, { if: checks.map(() => '-'), then: tree.changes.map(() => '-') }],
                })
              }
            >
              + row
            </button>
            {adding === 'check' ? (
              <FormulaInput
                value=""
                label="What the new check looks at"
                placeholder="a field or a formula"
                autoFocus
                world={world}
                onKeep={(text) => (text === '' ? setAdding(null) : addCheck(text))}
              />
            ) : (
              <FieldMenu
                label="+ check"
                fields={fields}
                onPick={addCheck}
                extra={[{ label: 'a formula …', act: () => setAdding('check') }]}
              />
            )}
            <FieldMenu
              label="+ change"
              fields={fields}
              onPick={(key) => {
                const field = fields.find((f) => f.key === key);
                addChange(
                  ['tags', 'choices', 'people', 'references'].includes(field?.type ?? '')
                    ? { add: key }
                    : ['person', 'team'].includes(field?.type ?? '')
                      ? { set: key, when: 'empty' }
                      : { set: key },
                );
              }}
            />
            <FieldMenu
              label="+ clear"
              fields={fields.filter((f) => f.key !== 'state' && !f.required)}
              onPick={(key) => addChange({ clear: key })}
            />
            <span className="soft">
              {tree.decide === 'every' ? 'every row that fits acts' : 'the first row that fits decides'}
            </span>
            <span className="soft ml-auto">paste a block from a spreadsheet with Ctrl V</span>
          </div>
          <AlsoTouch rule={tree} />
          <section className="px-4 py-3">
            <h2 className="mb-1">Why it is there</h2>
            <InPlaceText
              value={tree.purpose ?? ''}
              label="Purpose"
              placeholder="Say in a sentence what was asked for"
              className="w-full"
              onKeep={(purpose) =>
                edit(purpose === '' ? (({ purpose: _, ...rest }) => rest)(tree) : { ...tree, purpose })
              }
            />
            {(tree.questions ?? []).map((q) => (
              <p key={q.ask} className="mt-1">
                <span className="soft">{q.ask}</span> {q.answer}
              </p>
            ))}
          </section>
        </div>
        <div className="min-h-[150px] border-l border-l-ink bg-paper px-3.5 py-3 text-[13px]">
          <SampleOutcome />
        </div>
      </div>
      <Conflict theirs={edited.conflict} mine={tree} who={(key) => lexicon.person(key)} onSettle={edited.settle} />
    </main>
  );
}

export function RuleSheet() {
  const { key = '' } = useParams();
  const edited = usePart<RuleTree>('rules', key);
  if (!edited)
    return (
      <main className="p-10">
        <h1>There is no rule “{key}”.</h1>
        <p className="mt-2">
          It may have been removed.{' '}
          <Link to="/rulebook" className="link">
            To the rulebook
          </Link>
        </p>
      </main>
    );
  return <Sheet key={key} edited={edited} />;
}
