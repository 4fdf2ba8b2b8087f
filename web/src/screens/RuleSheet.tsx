import { useState } from 'react';
import { Link, useParams } from 'react-router';
import type { ActionTrace, RuleTrace } from '../api/client';
import {
  type Cell,
  type ChangeTree,
  changedType,
  changeField,
  changeKind,
  fieldsWritten,
  type RuleTree,
  settable,
  typesOf,
} from '../api/trees';
import { useKeys } from '../app/keys';
import type { Lexicon } from '../app/lexicon';
import { sayWhyNot } from '../app/sayWhyNot';
import { namingHint, sentence } from '../app/sentence';
import { type EditedPart, usePart } from '../app/usePart';
import { useWorkshop } from '../app/workshop';
import { Conflict } from '../parts/Conflict';
import { ConditionEditor } from '../parts/condition/ConditionEditor';
import { FormulaInput } from '../parts/FormulaInput';
import { Grid, type GridColumn } from '../parts/Grid';
import { InPlaceText } from '../parts/InPlaceText';
import { ProblemNote } from '../parts/ProblemNote';
import { RemovePart } from '../parts/RemovePart';
import { useFieldSuggestions } from '../parts/useFieldSuggestions';
import { useMentions } from '../parts/useMentions';
import { useWorld } from '../parts/useWorld';
import { AddChange, ChangeHead, composes, Settings, suggestedField, WHEN } from './rule/changes';
import { FitsNow, TryOnRecord, useFit } from './rule/FitsNow';
import { BusinessQuestions, CopyRule } from './rule/Head';
import { fieldEntries, Line, PickMenu } from './rule/Line';
import { LookUps } from './rule/LookUps';
import { RuleHistory } from './rule/RuleHistory';
import { Starts } from './rule/Starts';
import { isDone, sayAction } from './rule/sayAction';
import { SampleOutcome } from './SampleOutcome';

function RowMargin({
  look,
  row,
  type,
  lexicon,
  actions,
}: {
  look: RuleTrace | undefined;
  row: number;
  type: string;
  lexicon: Lexicon;
  actions: ActionTrace[];
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
        {actions.map((action) => {
          const { what, says } = sayAction(action, lexicon);
          return (
            <span key={action.column} className={action.problem ? 'mr-2 text-red' : 'now mr-2'} title={says}>
              {what}
            </span>
          );
        })}
        {changes.length + actions.length === 0 && <span className="soft">fits, nothing to change</span>}
      </span>
      <span className="text-teal">✓</span>
    </span>
  );
}

function AlsoTouch({ rule }: { rule: RuleTree }) {
  const { rules, lexicon } = useWorkshop();
  const mentions = useMentions() ?? [];
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
  const fit = useFit(edited.shown);
  const actions = (shop.traced?.trace?.actions ?? []).filter((a) => a.rule === tree.key && (isDone(a) || a.problem));
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
      const field = lexicon.field(changedType(change, tree), key);
      const { suggestions, say } = suggest(suggestedField(change, tree, lexicon), false);
      const put = (next: ChangeTree) =>
        edit({ ...tree, changes: tree.changes.map((old, j) => (j === i ? next : old)) });
      const ordered = ['number', 'percent', 'choice', 'state', 'date', 'date_time', 'duration'].includes(
        field?.type ?? '',
      );
      return {
        id: `then ${i} ${kind} ${key} ${change.of ?? ''}`,
        side: 'then',
        composes: composes(change, tree, lexicon) ? lexicon.type(types[0] ?? '')?.title : undefined,
        head: <ChangeHead change={change} rule={tree} lexicon={lexicon} />,
        menu: [
          ...(kind === 'set'
            ? Object.entries(WHEN)
                .filter(
                  ([when]) => when !== (change.when ?? 'always') && (ordered || !['higher', 'lower'].includes(when)),
                )
                .map(([when, words]) => ({
                  label: `Set ${words}`,
                  act: () => {
                    const { when: _, ...rest } = change;
                    put(when === 'always' ? rest : { ...rest, when });
                  },
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
  const hint = namingHint(tree, lexicon);
  const covered = shop.replay?.coverage.rules.find((r) => r.key === tree.key)?.rows;
  const whyNot = sayWhyNot(tree, look, shop.traced?.trace ?? undefined, lexicon);
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
          <label className="soft">
            owner{' '}
            <select
              className="bg-transparent"
              aria-label="Owner of the rule"
              value={tree.owner ?? ''}
              onChange={(e) => {
                const { owner: _, ...rest } = tree;
                edit(e.target.value === '' ? rest : { ...rest, owner: e.target.value });
              }}
            >
              <option value="">nobody</option>
              {lexicon.allPeople().map((p) => (
                <option key={p.key} value={p.key}>
                  {p.name}
                </option>
              ))}
            </select>
          </label>
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
          <CopyRule tree={tree} at={at} />
          <RemovePart kind="rules" part={edited.part} title={tree.title} what="rule" to="/rulebook">
            remove
          </RemovePart>
        </div>
        <h1 className="mt-1">
          <InPlaceText value={tree.title} label="Title of the rule" onKeep={(title) => edit({ ...tree, title })} />
        </h1>
        {hint && (
          <p className="text-[13px] text-ochre" data-test="naming-hint">
            ⚠ {hint}
          </p>
        )}
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

      <Starts
        edited={edited}
        look={look}
        createdBy={`created by ${lexicon.person(event?.by)}`}
        type={event?.type ?? ''}
        lexicon={lexicon}
        world={world}
      />
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
      <LookUps edited={edited} look={look} lexicon={lexicon} world={world} scans={fit?.scans ?? []} />
      <Settings
        edited={edited}
        lexicon={lexicon}
        world={world}
        margin={
          actions.length === 0 ? (
            <span className="soft">nothing done in this step</span>
          ) : (
            actions.map((action) => {
              const { what, says } = sayAction(action, lexicon);
              return (
                <p
                  key={`${action.row} ${action.column}`}
                  className={`truncate leading-[26px] ${action.problem ? 'text-red' : ''}`}
                  title={says}
                >
                  <span className="now">{what}</span> {says}
                </p>
              );
            })
          )
        }
      />

      {event && (
        <p className="border-b border-line px-4 py-1.5 text-[13px]" data-test="why-not">
          <b>In this sample</b> {whyNot ?? 'it acts.'}
        </p>
      )}
      <Grid
        columns={columns}
        rows={tree.rows}
        lexicon={lexicon}
        onRows={(rows) => edit({ ...tree, rows })}
        onTyping={(rows) => typing(rows === null ? null : { ...tree, rows })}
        wrong={(row, side, index) => errors.get(`/rows/${row}/${side}/${index}`)}
        world={world}
        hit={hits}
        covered={edited.status === 'saved' ? covered : undefined}
        marginHead={
          <span className="text-[13px]">
            <b>This sample</b>{' '}
            <span className="soft">
              {look && seen.length > 0 ? seen.join(' · ') : look ? '' : 'does not reach the grid'}
            </span>
          </span>
        }
        margin={(row) => (
          <RowMargin
            look={look}
            row={row}
            type={event?.type ?? ''}
            lexicon={lexicon}
            actions={actions.filter((a) => a.row === row)}
          />
        )}
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
              <PickMenu
                label="+ check"
                groups={[
                  { entries: [{ label: 'a formula …', act: () => setAdding('check') }] },
                  {
                    title: 'what a look-up found',
                    entries: (tree.look_ups ?? []).map((l) => ({ label: l.name, act: () => addCheck(l.name) })),
                  },
                  { title: 'a field', entries: fieldEntries(fields, addCheck) },
                ]}
              />
            )}
            <AddChange tree={tree} lexicon={lexicon} onAdd={addChange} />
            <select
              className="soft bg-transparent"
              aria-label="Which rows act"
              value={tree.decide ?? 'first'}
              onChange={(e) => {
                const { decide: _, ...rest } = tree;
                edit(e.target.value === 'every' ? { ...rest, decide: 'every' } : rest);
              }}
            >
              <option value="first">the first row that fits decides</option>
              <option value="every">every row that fits acts</option>
            </select>
            <span className="soft ml-auto">paste a block from a spreadsheet with Ctrl V</span>
          </div>
          <FitsNow fit={fit} lexicon={lexicon} />
          <TryOnRecord tree={edited.shown} lexicon={lexicon} />
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
            <h2 className="mt-3 mb-1">Questions for the business</h2>
            <BusinessQuestions
              questions={tree.questions ?? []}
              onQuestions={(questions) => {
                const { questions: _, ...rest } = tree;
                edit(questions.length > 0 ? { ...rest, questions } : rest);
              }}
            />
            <RuleHistory rule={tree.key} />
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
