import {
  type ChangeKind,
  type ChangeTree,
  changedType,
  changeField,
  changeKind,
  type FieldTree,
  fieldsOf,
  isFieldChange,
  lookUpKind,
  type RuleTree,
  settable,
  typesOf,
} from '../../api/trees';
import type { Lexicon } from '../../app/lexicon';
import type { EditedPart } from '../../app/usePart';
import type { World } from '../../parts/complete';
import { FormulaInput } from '../../parts/FormulaInput';
import { InPlaceText } from '../../parts/InPlaceText';
import { fieldEntries, Line, type MenuEntry, PickMenu } from './Line';

export const WHEN: Record<string, string> = {
  always: 'always',
  empty: 'only when empty',
  higher: 'keeps the higher',
  lower: 'keeps the lower',
};

const LISTS = ['tags', 'choices', 'people', 'references'];

const HEADS: Record<ChangeKind, string> = {
  set: 'set',
  clear: 'clear',
  add: 'add to',
  remove: 'take out of',
  raise: 'raise',
  prefix: 'put before',
  suffix: 'put after',
  assign: 'assign',
  note: 'note for',
  message: 'message',
  notify: 'tell',
  call: 'call',
  create: 'create',
  refuse: 'turn down',
};

const CELLS: Record<ChangeKind, string> = {
  set: '',
  clear: 'yes or no',
  add: 'keeps the rest',
  remove: 'keeps the rest',
  raise: 'by a number',
  prefix: 'a text, once',
  suffix: 'a text, once',
  assign: 'yes or no',
  note: 'the text',
  message: 'the body',
  notify: 'the text',
  call: 'the body',
  create: 'its fields',
  refuse: 'the reason',
};

/** What stands over a change column. */
export function ChangeHead({ change, rule, lexicon }: { change: ChangeTree; rule: RuleTree; lexicon: Lexicon }) {
  const kind = changeKind(change);
  const what =
    kind === 'assign'
      ? change.assign === 'least_loaded'
        ? 'the least loaded'
        : 'by turns'
      : kind === 'note'
        ? change.note === 'requester'
          ? 'the requester'
          : 'the staff'
        : kind === 'create'
          ? (lexicon.type(String(change.create))?.title ?? String(change.create))
          : kind === 'call'
            ? String(change.call)
            : isFieldChange(change)
              ? lexicon.label(changedType(change, rule), changeField(change))
              : kind === 'notify'
                ? 'people'
                : '';
  return (
    <>
      <b className="block truncate">
        {HEADS[kind]} {what}
      </b>
      <span className="soft mono block truncate">
        {change.of !== undefined && <b className="text-plum">of {change.of} </b>}
        {kind === 'set' ? WHEN[change.when ?? 'always'] : CELLS[kind]}
      </span>
    </>
  );
}

const fresh: Record<string, ChangeTree> = {
  note: { note: 'staff' },
  message: { message: 'mail', to: 'requester', subject: '"About your ticket"' },
  notify: { notify: 'assignee' },
  call: { call: 'call', endpoint: 'https://example.com/', method: 'POST' },
  refuse: { refuse: 'save' },
};

/** What a change of a field is to begin with. */
function onField(field: FieldTree | undefined, key: string): ChangeTree {
  if (LISTS.includes(field?.type ?? '')) return { add: key };
  return ['person', 'team'].includes(field?.type ?? '') ? { set: key, when: 'empty' } : { set: key };
}

export function AddChange({
  tree,
  lexicon,
  onAdd,
}: {
  tree: RuleTree;
  lexicon: Lexicon;
  onAdd: (change: ChangeTree) => void;
}) {
  const type = lexicon.type(typesOf(tree)[0] ?? '');
  const fields = settable(type);
  const of = (kinds: string[]) => fields.filter((f) => kinds.includes(f.type));
  const entry = (label: string, change: ChangeTree): MenuEntry => ({ label, act: () => onAdd(change) });
  const team = lexicon.allTeams()[0]?.key ?? '';
  const held = (tree.look_ups ?? []).flatMap((l) => {
    const kind = lookUpKind(l);
    const to =
      kind === 'first' || kind === 'all'
        ? l[kind]
        : kind === 'value'
          ? lexicon.field(typesOf(tree), String(l.value))?.to
          : undefined;
    return to ? [{ name: l.name, type: to }] : [];
  });
  return (
    <>
      <PickMenu
        label="+ change"
        groups={[
          {
            title: 'set or add to',
            entries: fieldEntries(fields, (key) =>
              onAdd(
                onField(
                  fields.find((f) => f.key === key),
                  key,
                ),
              ),
            ),
          },
          {
            title: 'clear',
            entries: fieldEntries(
              fields.filter((f) => f.key !== 'state' && !f.required),
              (key) => onAdd({ clear: key }),
            ),
          },
          { title: 'take out of', entries: fieldEntries(of(LISTS), (key) => onAdd({ remove: key })) },
          { title: 'raise', entries: fieldEntries(of(['number', 'percent']), (key) => onAdd({ raise: key })) },
          {
            title: 'put before or after',
            entries: of(['text', 'long_text']).flatMap((f) => [
              { label: `before ${f.label}`, detail: f.key, act: () => onAdd({ prefix: f.key }) },
              { label: `after ${f.label}`, detail: f.key, act: () => onAdd({ suffix: f.key }) },
            ]),
          },
          {
            title: 'assign',
            entries:
              type?.kind === 'ticket'
                ? [
                    entry('by turns in a team', { assign: 'take_turns', team }),
                    entry('the least loaded of a team', { assign: 'least_loaded', team }),
                  ]
                : [],
          },
        ]}
      />
      <PickMenu
        label="+ action"
        groups={[
          {
            entries: [
              entry('a note for the staff', { note: 'staff' }),
              entry('a note for the requester', { note: 'requester' }),
              entry('a message by mail', fresh.message ?? {}),
              entry('tell people', fresh.notify ?? {}),
              entry('a web call', fresh.call ?? {}),
              entry('turn the save down', fresh.refuse ?? {}),
            ],
          },
          {
            title: 'create a',
            entries: lexicon.allTypes().map((t) => entry(t.title.toLowerCase(), { create: t.key })),
          },
          ...held.map(({ name, type: to }) => ({
            title: `on ${name}`,
            entries: fieldEntries(settable(lexicon.type(to)), (key) =>
              onAdd({ ...onField(lexicon.field(to, key), key), of: name }),
            ),
          })),
        ]}
      />
    </>
  );
}

function Setting({
  label,
  value,
  placeholder,
  world,
  mistake,
  onKeep,
}: {
  label: string;
  value: string;
  placeholder?: string;
  world?: World;
  mistake?: { detail: string } | undefined;
  onKeep: (text: string) => void;
}) {
  return (
    <span className="flex min-w-[180px] flex-1 items-center gap-1.5">
      <span className="soft">{label}</span>
      {world ? (
        <FormulaInput value={value} label={label} world={world} mistake={mistake as never} onKeep={onKeep} />
      ) : (
        <InPlaceText
          value={value}
          label={label}
          placeholder={placeholder ?? ''}
          className="mono min-w-0 flex-1"
          onKeep={onKeep}
        />
      )}
    </span>
  );
}

/** Who a message goes to, where a call goes, which team: what belongs to a column and not to a row. */
export function Settings({
  edited,
  lexicon,
  world,
  margin,
}: {
  edited: EditedPart<RuleTree>;
  lexicon: Lexicon;
  world: World;
  margin: React.ReactNode;
}) {
  const { tree, edit, errors } = edited;
  const list = tree.changes
    .map((change, i) => ({ change, i, kind: changeKind(change) }))
    .filter(({ kind }) => ['message', 'notify', 'call', 'assign'].includes(kind));
  if (list.length === 0) return null;
  const put = (i: number, change: ChangeTree) =>
    edit({ ...tree, changes: tree.changes.map((old, j) => (j === i ? change : old)) });
  return (
    <Line title="Acts with" margin={margin}>
      {list.map(({ change, i, kind }) => {
        const wrong = (key: string) => errors.get(`/changes/${i}/${key}`);
        const other = wrong('endpoint') ?? wrong('headers') ?? wrong('team') ?? errors.get(`/changes/${i}`);
        return (
          <div key={i} className="w-full" data-test={`setting-${kind}`}>
            <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
              <b className="w-[70px]">{HEADS[kind]}</b>
              {kind === 'message' && (
                <>
                  <Setting
                    label="to"
                    value={String(change.to ?? '')}
                    world={world}
                    mistake={wrong('to')}
                    onKeep={(to) => put(i, { ...change, to })}
                  />
                  <Setting
                    label="subject"
                    value={String(change.subject ?? '')}
                    world={world}
                    mistake={wrong('subject')}
                    onKeep={(subject) => put(i, { ...change, subject })}
                  />
                </>
              )}
              {kind === 'notify' && (
                <Setting
                  label="whom"
                  value={String(change.notify ?? '')}
                  world={world}
                  mistake={wrong('notify')}
                  onKeep={(notify) => put(i, { ...change, notify })}
                />
              )}
              {kind === 'assign' && (
                <label className="flex items-center gap-1.5">
                  <span className="soft">in</span>
                  <select
                    className="field"
                    aria-label="Team"
                    value={change.team ?? ''}
                    onChange={(e) => put(i, { ...change, team: e.target.value })}
                  >
                    {lexicon.allTeams().map((t) => (
                      <option key={t.key} value={t.key}>
                        {t.name}
                      </option>
                    ))}
                  </select>
                  <select
                    className="field"
                    aria-label="When it assigns"
                    value={change.when ?? 'empty'}
                    onChange={(e) => put(i, { ...change, when: e.target.value })}
                  >
                    <option value="empty">only when nobody has it</option>
                    <option value="always">always</option>
                  </select>
                  <span className="soft">Who is away or no longer active is passed over.</span>
                </label>
              )}
              {kind === 'call' && (
                <>
                  <Setting
                    label="key"
                    value={String(change.call ?? '')}
                    onKeep={(call) => put(i, { ...change, call })}
                  />
                  <select
                    className="field"
                    aria-label="Method"
                    value={change.method ?? 'POST'}
                    onChange={(e) => put(i, { ...change, method: e.target.value })}
                  >
                    {['POST', 'PUT', 'PATCH', 'GET', 'DELETE'].map((m) => (
                      <option key={m}>{m}</option>
                    ))}
                  </select>
                  <Setting
                    label="at"
                    value={change.endpoint ?? ''}
                    placeholder="https://…"
                    onKeep={(endpoint) => put(i, { ...change, endpoint })}
                  />
                  <Setting
                    label="headers"
                    value={Object.entries(change.headers ?? {})
                      .map(([name, value]) => `${name}: ${value}`)
                      .join('; ')}
                    placeholder="Name: value; …"
                    onKeep={(text) => {
                      const { headers: _, ...rest } = change;
                      const headers = Object.fromEntries(
                        text
                          .split(';')
                          .map((line) => line.split(/:(.*)/s).map((part) => part.trim()))
                          .filter(([name]) => name)
                          .map(([name, value]) => [name, value ?? '']),
                      );
                      put(i, Object.keys(headers).length > 0 ? { ...rest, headers } : rest);
                    }}
                  />
                </>
              )}
            </div>
            {other && <p className="text-[13px] text-red">✕ {other.detail}</p>}
          </div>
        );
      })}
    </Line>
  );
}

export const suggestedField = (change: ChangeTree, rule: RuleTree, lexicon: Lexicon): FieldTree | undefined => {
  const kind = changeKind(change);
  if (kind === 'assign' || kind === 'clear') return { key: '', label: '', type: 'yes_no' };
  if (!['set', 'add', 'remove'].includes(kind)) return undefined;
  return fieldsOf(lexicon.type(changedType(change, rule))).find((f) => f.key === changeField(change));
};

/** Whether its cells are texts that can be put together from text and fields. */
export function composes(change: ChangeTree, rule: RuleTree, lexicon: Lexicon): boolean {
  const kind = changeKind(change);
  const field = lexicon.field(changedType(change, rule), changeField(change));
  return (
    ['note', 'message', 'notify', 'refuse', 'prefix', 'suffix'].includes(kind) ||
    (kind === 'set' && ['text', 'long_text', 'rich_text'].includes(field?.type ?? ''))
  );
}
