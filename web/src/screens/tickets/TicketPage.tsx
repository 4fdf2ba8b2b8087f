import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Dialog, Popover } from 'radix-ui';
import { useEffect, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api, type DryRun, type Note, Problem, type Related, type Run, type TicketRecord } from '../../api/client';
import { type FieldTree, fieldsOf, isLong, settable, type TypeTree, type Values } from '../../api/trees';
import { type DeskView, moment } from '../../app/desk';
import { useKeys } from '../../app/keys';
import type { Lexicon } from '../../app/lexicon';
import { useMay, usePerson } from '../../app/session';
import { useMaybeWorkshop } from '../../app/workshop';
import { ProblemNote } from '../../parts/ProblemNote';
import { Several } from '../../parts/Several';
import { TraceView } from '../../parts/TraceView';
import { type GuardsOf, useChoices, useGuards } from '../../parts/useGuards';
import { useReferred } from '../../parts/useReferred';
import { PercentBar, ValueEditor } from '../../parts/ValueEditor';
import { DeleteRecord } from '../registers/DeleteRecord';
import { ByHand } from './ByHand';

/** What the rules would make of what is being typed. */
function useDryRun(
  id: string | null,
  type: string,
  edits: Values,
): { run: DryRun | undefined; problem: Problem | null } {
  const text = JSON.stringify(edits);
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), 120);
    return () => clearTimeout(timer);
  }, [text]);
  const any = settled !== '{}';
  const query = useQuery({
    queryKey: ['dry run', id, type, settled],
    queryFn: () => api.dryRun(id, type, JSON.parse(settled) as Values),
    enabled: any,
    placeholderData: (old) => old,
    gcTime: 0,
    staleTime: 0,
  });
  return {
    run: any && text !== '{}' ? query.data : undefined,
    problem: any && query.isError ? Problem.of(query.error) : null,
  };
}

interface FormProps {
  type: TypeTree;
  values: Values;
  edits: Values;
  view: DeskView;
  lexicon: Lexicon;
  run: DryRun | undefined;
  problem: Problem | null;
  records: Map<string, { id: string; name: string }[]>;
  guards: GuardsOf;
  onEdit: (key: string, value: unknown) => void;
  /** The ticket; null while it is a new one. */
  id: string | null;
}

/** An editor whose choices are those that remain. */
function Limited(props: {
  id: string | null;
  type: string;
  edits: Values;
  isLimited: boolean;
  editor: React.ComponentProps<typeof ValueEditor>;
}) {
  const { field, records, isKnown } = useChoices(
    props.id,
    props.type,
    props.edits,
    props.editor.field,
    props.isLimited,
  );
  // what may not be chosen is not offered for a moment either
  if (!isKnown) return <span className="soft">…</span>;
  return <ValueEditor {...props.editor} field={field} {...(records ? { records } : {})} />;
}

function Fields({ type, values, edits, view, lexicon, run, problem, records, guards, onEdit, id }: FormProps) {
  const [open, setOpen] = useState<string | null>(null);
  const isNew = id === null;
  const computed = type.fields.filter((f) => f.type === 'derived' || f.type === 'tally');
  // a retired field is shown while the ticket still holds a value
  const fields = [
    ...settable(type).filter((f) => f.active !== false || values[f.key] !== undefined),
    ...computed,
  ].filter((f) => f.key !== 'state' && f.key !== 'title' && !isLong(f) && !guards.hidden(f.key));
  const byRule = new Map(run?.changes.filter((c) => c.rule !== null).map((c) => [c.field, c]));
  const wrong = (key: string): string | undefined =>
    problem?.errors.find((e) => e.pointer === `/values/${key}`)?.detail ??
    run?.refused.find((r) => r.field === key)?.reason;
  const row = (field: FieldTree) => {
    const edited = field.key in edits;
    const value = edited ? edits[field.key] : values[field.key];
    const after = byRule.get(field.key);
    const mistake = wrong(field.key);
    const follows =
      field.type === 'derived' || field.type === 'tally'
        ? 'Follows from other fields.'
        : view.mirrored(type.key, field.key);
    const locked = follows ?? guards.locked(field.key);
    const needed = guards.needed(field.key);
    const editing = locked === null && (open === field.key || (isNew && !after));
    return (
      <div
        key={field.key}
        className="grid min-h-9 grid-cols-[104px_minmax(0,1fr)] items-center gap-2 border-b border-line py-1"
        data-test={`field-${field.key}`}
      >
        <span className="soft text-[13px]">
          {field.label}
          {needed && (
            <b className="ml-1 text-ink" title={needed}>
              needed
            </b>
          )}
        </span>
        <div onBlur={(e) => !e.currentTarget.contains(e.relatedTarget) && open === field.key && setOpen(null)}>
          {editing ? (
            <Limited
              id={id}
              type={type.key}
              edits={edits}
              isLimited={guards.limited(field.key)}
              editor={{
                field,
                value,
                lexicon,
                records: field.to ? (records.get(field.to) ?? []) : [],
                invalid: mistake !== undefined,
                autoFocus: !isNew,
                onChange: (next) => onEdit(field.key, next),
              }}
            />
          ) : locked !== null ? (
            <span data-test={`locked-${field.key}`}>
              {value === undefined || value === null ? <span className="soft">–</span> : lexicon.say(value, field)}
              <span className="soft block text-[12.5px]">{locked}</span>
            </span>
          ) : (
            <button
              type="button"
              className="w-full text-left hover:bg-paper"
              onClick={() => setOpen(field.key)}
              aria-label={`Edit ${field.label}`}
            >
              {field.type === 'percent' && typeof value === 'number' ? (
                <PercentBar value={value} {...(field.bands ? { bands: field.bands } : {})} />
              ) : value === undefined || value === null ? (
                <span className="soft">–</span>
              ) : field.type === 'reference' ? (
                <>
                  {lexicon.say(value, field)} <span className="mono soft">{String(value)}</span>
                </>
              ) : (
                lexicon.say(value, field)
              )}
              {edited && <span className="soft"> edited</span>}
            </button>
          )}
          {after && (
            <p className="bg-plumbg px-1.5 text-plum" data-test={`will-${field.key}`}>
              <b>{lexicon.sayChange(Array.isArray(after.after) ? after.before : null, after.after, field)}</b>{' '}
              <span className="text-[12.5px]">by rule {view.rule(after.rule).split(' ')[0]}</span>
            </p>
          )}
          {mistake && (
            <p role="alert" className="text-[13px] text-red">
              ✕ {mistake}
            </p>
          )}
        </div>
      </div>
    );
  };
  const half = Math.ceil(fields.length / 2);
  return (
    <div className="grid grid-cols-2 gap-x-5">
      <div>{fields.slice(0, half).map(row)}</div>
      <div>{fields.slice(half).map(row)}</div>
    </div>
  );
}

function OnSaving({
  run,
  view,
  lexicon,
  type,
}: {
  run: DryRun | undefined;
  view: DeskView;
  lexicon: Lexicon;
  type: string;
}) {
  if (!run) return null;
  const acting = Object.entries(run.rules).filter(([, status]) => status === 'acted');
  const changes = run.changes.filter((c) => c.rule !== null);
  return (
    <div className="mt-3 border-l-3 border-plum bg-plumbg px-3 py-2" data-test="on-saving">
      {run.refused.length > 0 ? (
        <b className="text-red">It cannot be saved like this: {run.refused.map((r) => r.reason).join(' ')}</b>
      ) : (
        <>
          <b>
            On saving, {acting.length === 0 ? 'no rule' : acting.length === 1 ? '1 rule' : `${acting.length} rules`}{' '}
            will act.
          </b>{' '}
          {[...new Set(changes.map((change) => change.rule))].map((rule) => (
            <span key={rule}>
              <span className="text-plum">{view.rule(rule)}</span> sets{' '}
              {changes
                .filter((change) => change.rule === rule)
                .map((change) => {
                  const field = lexicon.field(type, change.field);
                  const before = Array.isArray(change.after) ? change.before : null;
                  return `${lexicon.label(type, change.field).toLowerCase()} ${lexicon.sayChange(before, change.after, field)}`;
                })
                .join(', ')}
              .{' '}
            </span>
          ))}
          {run.problems.map((p) => (
            <span key={p.message} className="text-red">
              ✕ {p.message}{' '}
            </span>
          ))}
        </>
      )}
    </div>
  );
}

function States({
  type,
  value,
  edited,
  role,
  onEdit,
}: {
  type: TypeTree;
  value: string;
  role: string;
  edited: boolean;
  onEdit: (state: string) => void;
}) {
  const roles = ['requester', 'agent', 'builder', 'publisher', 'administrator'];
  const mine = roles.indexOf(role);
  /** Null when the move is allowed, else why it is not. */
  const why = (to: string): string | null => {
    if (to === value || !type.moves) return null;
    const ways = type.moves.filter((m) => m.from === value && m.to.includes(to));
    if (ways.length === 0) return `There is no move from here to ${to}`;
    const needed = Math.min(...ways.flatMap((m) => (m.roles ?? ['agent']).map((r) => roles.indexOf(r))));
    return mine >= needed ? null : `This move needs the role ${roles[needed]}`;
  };
  return (shown: string) => (
    <div className="flex" role="radiogroup" aria-label="State">
      {(type.states ?? []).map((state) => {
        const against = why(state.key);
        const allowed = against === null;
        return (
          <button
            key={state.key}
            type="button"
            data-test={`move-${state.key}`}
            role="radio"
            aria-checked={state.key === shown}
            disabled={!allowed}
            title={against?.replace(` to ${state.key}`, ` to ${state.label}`) ?? state.label}
            className={`border border-l-0 border-line px-2.5 py-1 text-[13px] first:border-l ${state.key === shown ? 'bg-ink font-semibold text-paper' : allowed ? 'bg-sheet hover:bg-faint' : 'bg-paper text-soft opacity-70'}`}
            onClick={() => onEdit(state.key)}
          >
            {state.label}
            {edited && state.key === shown && ' (edited)'}
          </button>
        );
      })}
    </div>
  );
}

const HAPPENED: Record<string, string> = {
  created: 'created it',
  received: 'wrote about it by mail',
  answered: 'A web call came back',
  at: 'Its time came, by the clock',
  by_hand: 'started a rule by hand',
};

const newestFirst = (a: Run | Note, b: Run | Note): number => Date.parse(b.at) - Date.parse(a.at);

function NoteEntry({
  note,
  lexicon,
  zone,
  rule,
}: {
  note: Note;
  lexicon: Lexicon;
  zone: string;
  rule: (key: string | null) => string;
}) {
  const when = moment(note.at, zone);
  return (
    <li className="border-l border-line pl-3 text-[13px]" data-test="note">
      <div className="-ml-[18px] flex gap-2">
        <span title={note.for === 'staff' ? 'a note for the staff' : 'a note that the requester reads'}>
          {note.for === 'staff' ? '▪' : '▸'}
        </span>
        <div className="min-w-0">
          {note.rule ? (
            <span className="text-plum">{rule(note.rule)}</span>
          ) : (
            <b>{note.by ? lexicon.person(note.by) : (note.sender ?? 'Somebody')}</b>
          )}{' '}
          {note.sender ? 'wrote by mail' : note.for === 'staff' ? 'noted' : 'wrote to the requester'}{' '}
          <span className="soft" title={when.exact}>
            {when.short}
          </span>
          <p className="whitespace-pre-wrap break-words">{note.text}</p>
        </div>
      </div>
    </li>
  );
}

function AddNote({ id, onDone }: { id: string; onDone: () => void }) {
  const [text, setText] = useState('');
  const [readers, setReaders] = useState<'staff' | 'requester'>('staff');
  const [problem, setProblem] = useState<Problem | null>(null);
  const send = async () => {
    try {
      await api.addNote(id, { for: readers, text });
      setText('');
      setProblem(null);
      onDone();
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  return (
    <form
      className="mb-4"
      onSubmit={(e) => {
        e.preventDefault();
        void send();
      }}
    >
      <textarea
        className="field w-full"
        rows={text === '' ? 1 : 3}
        aria-label="Note"
        placeholder="A note …"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Enter' && (e.ctrlKey || e.metaKey) && text.trim() !== '') {
            e.preventDefault();
            void send();
          }
        }}
      />
      {text !== '' && (
        <div className="mt-1 flex flex-wrap items-center gap-2 text-[13px]">
          {(['staff', 'requester'] as const).map((who) => (
            <label key={who}>
              <input type="radio" name="readers" checked={readers === who} onChange={() => setReaders(who)} />{' '}
              {who === 'staff' ? 'for the staff' : 'for the requester too'}
            </label>
          ))}
          <button type="submit" className="btn" disabled={text.trim() === ''}>
            Add note
          </button>
        </div>
      )}
      <ProblemNote problem={problem} />
    </form>
  );
}

function RelatedRecords({ groups, view }: { groups: Related[]; view: DeskView }) {
  if (groups.length === 0) return null;
  return (
    <details className="mb-4" data-test="related">
      <summary className="cursor-pointer text-[12.5px] font-semibold text-soft">
        Related <span className="font-normal">{groups.reduce((sum, g) => sum + g.total, 0)}</span>
      </summary>
      {groups.map((group) => {
        const isTicket = view.lexicon.type(group.type)?.kind === 'ticket';
        const lines = [
          { field: group.filter.field, is: 'any', of: [group.filter.value] },
          ...(group.how.endsWith('open') ? [{ field: 'state', is: 'any', of: ['open'] }] : []),
        ];
        return (
          <div key={group.how} className="mt-2 text-[13px]">
            {isTicket ? (
              <Link
                to={`/tickets?type=${group.type}&lines=${encodeURIComponent(JSON.stringify(lines))}`}
                className="link text-[13px]"
              >
                {group.how}: {group.total}
              </Link>
            ) : (
              <span className="soft">
                {group.how}: {group.total}
              </span>
            )}
            {group.records.map((record) => (
              <p key={record.id} className="truncate">
                <Link
                  to={isTicket ? `/tickets/${record.id}` : `/registers/${group.type}/${record.id}`}
                  className="hover:underline"
                  title={record.name}
                >
                  <span className="mono soft">{record.id}</span> {record.name}
                </Link>
              </p>
            ))}
          </div>
        );
      })}
    </details>
  );
}

function Watching({
  id,
  watchers,
  lexicon,
  onDone,
}: {
  id: string;
  watchers: string[];
  lexicon: Lexicon;
  onDone: () => void;
}) {
  const me = usePerson().key;
  const [problem, setProblem] = useState<Problem | null>(null);
  const act = async (who: string, on: boolean) => {
    try {
      await api.watch(id, who, on);
      setProblem(null);
    } catch (error) {
      setProblem(Problem.of(error));
    }
    onDone();
  };
  const isOn = watchers.includes(me);
  return (
    <Popover.Root>
      <Popover.Trigger className="link" data-test="watching">
        {isOn ? 'You watch' : 'Watch'}
        {watchers.length > (isOn ? 1 : 0) && <span className="soft font-normal"> {watchers.length}</span>}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="z-50 w-[260px] border border-ink bg-sheet p-2" align="end" sideOffset={4}>
          <button type="button" className="btn w-full" onClick={() => void act(me, !isOn)}>
            {isOn ? 'Watch it no longer' : 'Watch it: tell me what others do'}
          </button>
          <ProblemNote problem={problem} />
          <h2 className="mt-2 mb-1">Who watches</h2>
          <Several
            options={lexicon
              .allPeople()
              .filter((p) => p.active)
              .map((p) => ({ key: p.key, label: p.name }))}
            chosen={watchers}
            label="Who watches"
            onChosen={(chosen) => {
              for (const key of chosen) if (!watchers.includes(key)) void act(key, true);
              for (const key of watchers) if (!chosen.includes(key)) void act(key, false);
            }}
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function History({
  runs,
  notes,
  view,
  lexicon,
  type,
  zone,
  onTrace,
  onKeep,
}: {
  runs: Run[];
  notes: Note[];
  view: DeskView;
  lexicon: Lexicon;
  type: string;
  zone: string;
  onTrace: (run: number) => void;
  onKeep: ((run: number, nameless?: boolean) => void) | null;
}) {
  return (
    <ol className="flex flex-col gap-3" data-test="history">
      {[...runs, ...notes].sort(newestFirst).map((run) => {
        if ('note' in run)
          return <NoteEntry key={`note ${run.note}`} note={run} lexicon={lexicon} zone={zone} rule={view.rule} />;
        const when = moment(run.at, zone);
        const own = run.changes.filter((c) => c.rule === null);
        const rules = [...new Set(run.changes.flatMap((c) => (c.rule === null ? [] : [c.rule])))];
        const say = (c: Run['changes'][number]) => {
          const field = lexicon.field(type, c.field);
          return (
            <p key={`${c.field} ${String(c.after)}`}>
              {lexicon.label(type, c.field).toLowerCase()} <span className="was">{lexicon.say(c.before, field)}</span> →{' '}
              <span className="now">{lexicon.say(c.after, field)}</span>
            </p>
          );
        };
        return (
          <li key={run.run} className="border-l border-line pl-3 text-[13px]">
            {[...rules].reverse().map((rule) => (
              <div key={rule} className="mb-1.5 -ml-[18px] flex gap-2">
                <span className="text-plum" title="changed by a rule">
                  ◆
                </span>
                <div>
                  <b>{view.rule(rule)}</b>
                  {run.changes.filter((c) => c.rule === rule).map(say)}
                </div>
              </div>
            ))}
            {run.problems.map((p) => (
              <p key={p.message} className="text-red">
                ✕ {p.message}
              </p>
            ))}
            <div className="-ml-[18px] flex gap-2">
              <span>□</span>
              <div>
                {run.kind === 'at' || run.kind === 'answered' ? '' : <b>{lexicon.person(run.by)}</b>}{' '}
                {HAPPENED[run.kind] ?? 'changed it'}{' '}
                <span className="soft" title={when.exact}>
                  {when.short}
                </span>
                {run.kind === 'created' ? (
                  <p className="soft">{own.map((c) => lexicon.label(type, c.field).toLowerCase()).join(', ')}</p>
                ) : (
                  own.map(say)
                )}
                <p className="soft">
                  edition {run.edition} ·{' '}
                  <button type="button" className="underline" onClick={() => onTrace(run.run)}>
                    why?
                  </button>
                  {onKeep && (
                    <>
                      {' '}
                      ·{' '}
                      <button type="button" className="underline" onClick={() => onKeep(run.run)}>
                        keep as sample
                      </button>{' '}
                      ·{' '}
                      <button
                        type="button"
                        className="underline"
                        title="without the names and addresses of requesters"
                        onClick={() => onKeep(run.run, true)}
                      >
                        without names
                      </button>
                    </>
                  )}
                </p>
              </div>
            </div>
          </li>
        );
      })}
    </ol>
  );
}

function TraceDialog({ run, view, onClose }: { run: number | null; view: DeskView; onClose: () => void }) {
  const { data } = useQuery({ queryKey: ['run', run], queryFn: () => api.run(run ?? 0), enabled: run !== null });
  return (
    <Dialog.Root open={run !== null} onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-over" />
        <Dialog.Content className="dialog" aria-describedby={undefined}>
          <Dialog.Title className="mb-2 text-[17px] font-bold">
            Run {run}{' '}
            {data && (
              <span className="soft font-normal">
                edition {data.run.edition} · {data.run.ms} ms
              </span>
            )}
          </Dialog.Title>
          {data && <TraceView trace={data.trace} lexicon={view.lexicon.with(data.names)} ruleTitle={view.rule} />}
          <div className="mt-4 text-right">
            <Dialog.Close className="btn">Close</Dialog.Close>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** Both sides of a stale save, field by field. */
function Stale({
  current,
  edits,
  base,
  lexicon,
  onSettle,
}: {
  current: TicketRecord;
  edits: Values;
  base: Values;
  lexicon: Lexicon;
  onSettle: (edits: Values) => void;
}) {
  const clashing = Object.keys(edits).filter(
    (key) => JSON.stringify(current.values[key] ?? null) !== JSON.stringify(base[key] ?? null),
  );
  const [mine, setMine] = useState(() => new Set(Object.keys(edits)));
  return (
    <Dialog.Root open>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-over" />
        <Dialog.Content className="dialog" aria-describedby={undefined} data-test="conflict">
          <Dialog.Title className="text-[17px] font-bold">
            Somebody saved {current.id} while you were editing
          </Dialog.Title>
          <p className="mt-1 mb-3">
            Nothing was overwritten.{' '}
            {clashing.length === 0
              ? 'They changed other fields than you; your edits can go on top.'
              : 'Pick for each field what is to stand.'}
          </p>
          <table className="ledger">
            <thead>
              <tr>
                <th>Field</th>
                <th>Before</th>
                <th>Theirs</th>
                <th>Yours</th>
              </tr>
            </thead>
            <tbody>
              {Object.keys(edits).map((key) => {
                const field = lexicon.field(current.type, key);
                const pick = (isMine: boolean) => {
                  const next = new Set(mine);
                  if (isMine) next.add(key);
                  else next.delete(key);
                  setMine(next);
                };
                return (
                  <tr key={key}>
                    <td>{field?.label ?? key}</td>
                    <td className="soft">{lexicon.say(base[key], field)}</td>
                    <td>
                      <label>
                        <input type="radio" checked={!mine.has(key)} onChange={() => pick(false)} />{' '}
                        {lexicon.say(current.values[key], field)}
                      </label>
                    </td>
                    <td>
                      <label>
                        <input type="radio" checked={mine.has(key)} onChange={() => pick(true)} />{' '}
                        {lexicon.say(edits[key], field)}
                      </label>
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          <div className="mt-4 text-right">
            <button
              type="button"
              className="btn btn-main"
              onClick={() => onSettle(Object.fromEntries(Object.entries(edits).filter(([key]) => mine.has(key))))}
            >
              Go on with this
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

export function TicketPage({ id, view }: { id: string; view: DeskView }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const shop = useMaybeWorkshop();
  const builds = useMay('builder');
  const person = usePerson();
  const query = useQuery({ queryKey: ['ticket', id], queryFn: () => api.ticket(id), staleTime: 0 });
  const [edits, setEdits] = useState<Values>({});
  const [problem, setProblem] = useState<Problem | null>(null);
  const [stale, setStale] = useState<TicketRecord | null>(null);
  const [trace, setTrace] = useState<number | null>(null);
  const [busy, setBusy] = useState(false);
  const [base, setBase] = useState<TicketRecord | null>(null);
  const [opened] = useState(() => Date.now());
  const ticket = query.data?.ticket;
  // what others saved meanwhile is taken over, unless it touches what is being edited: that is settled when it is saved
  useEffect(() => {
    if (!ticket || !base || ticket.version === base.version) return;
    const clash = Object.keys(edits).some(
      (key) => JSON.stringify(ticket.values[key] ?? null) !== JSON.stringify(base.values[key] ?? null),
    );
    if (!clash) setBase(null);
  }, [ticket, base, edits]);
  useKeys({ 'Ctrl+s': () => void save() });
  const type = view.lexicon.type(ticket?.type ?? '');
  const dry = useDryRun(id, ticket?.type ?? '', edits);
  const records = useReferred(fieldsOf(type));
  const guards = useGuards(id, ticket?.type ?? '', ticket?.version ?? 0, dry.run);
  const save = async () => {
    if (!ticket || busy || Object.keys(edits).length === 0) return;
    setBusy(true);
    try {
      await api.changeTicket(id, edits, (base ?? ticket).version);
      setEdits({});
      setBase(null);
      setProblem(null);
      await Promise.all([query.refetch(), client.invalidateQueries({ queryKey: ['tickets'] })]);
    } catch (error) {
      const why = Problem.of(error);
      if (why.status === 412) setStale(why.current as TicketRecord);
      else setProblem(why);
    } finally {
      setBusy(false);
    }
  };
  if (query.isError) {
    const why = Problem.of(query.error);
    return (
      <section className="bg-sheet p-10">
        <h1>{why.message}</h1>
        <p className="mt-2">{why.detail}</p>
      </section>
    );
  }
  if (!query.data || !ticket || !type || !guards.isKnown) return <section className="bg-sheet" />;
  const lexicon = view.lexicon.with({ ...query.data.names, ...dry.run?.names });
  const edit = (key: string, value: unknown) => {
    setProblem(null);
    setBase((old) => old ?? ticket);
    setEdits((old) => {
      const next = { ...old, [key]: value };
      if (JSON.stringify(value ?? null) === JSON.stringify(ticket.values[key] ?? null)) delete next[key];
      return next;
    });
  };
  const count = Object.keys(edits).length;
  const meanwhile = Object.keys(edits).filter(
    (key) => base && JSON.stringify(ticket.values[key] ?? null) !== JSON.stringify(base.values[key] ?? null),
  );
  const drop = () => {
    setEdits({});
    setBase(null);
    setProblem(null);
  };
  const keep = async (run: number | null, nameless = false) => {
    try {
      const answer = await api.keepAsSample(id, run, nameless);
      shop?.saved('samples', answer);
      shop?.takeInHand(answer.part.key);
      navigate(`/samples/${answer.part.key}`);
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  const state = String(ticket.values.state ?? '');
  const newest = query.data.history[0];
  const byOther = newest && newest.by !== person.key && Date.parse(newest.at) > opened - 2000 ? newest : null;
  const long = type.fields.filter((f) => isLong(f) && !guards.hidden(f.key));
  const created = moment(ticket.created_at, view.desk.timezone);
  const title = 'title' in edits ? String(edits.title ?? '') : String(ticket.values.title ?? '');
  const willState = dry.run?.changes.find((c) => c.field === 'state' && c.rule !== null);
  return (
    <section className="grid min-h-0 grid-cols-[minmax(0,1fr)_262px]" data-test="ticket-page">
      <div className="overflow-auto bg-sheet px-4 py-3">
        <div className="sticky top-0 z-10 -mx-4 -mt-3 flex min-h-[46px] items-center gap-3 bg-sheet px-4 text-[13px]">
          <span className="mono">{id}</span>
          <span>{type.title}</span>
          <span className="soft" title={created.exact}>
            by {lexicon.person(String(ticket.values.requester ?? ticket.values.created_by ?? ''))}, {created.short}
          </span>
          <span className="flex-1" />
          {byOther && (
            <span className="bg-plumbg px-2 text-plum" role="status" data-test="by-other">
              ◆ {lexicon.person(byOther.by)} changed it {moment(byOther.at, view.desk.timezone).short}
            </span>
          )}
          <Watching id={id} watchers={query.data.watchers} lexicon={lexicon} onDone={() => void query.refetch()} />
          {count === 0 && (
            <ByHand
              tickets={[id]}
              types={[type.key]}
              view={view}
              lexicon={lexicon}
              onDone={() => void query.refetch()}
            />
          )}
          {builds && count === 0 && (
            <DeleteRecord type={type} record={ticket} lexicon={lexicon} onProblem={setProblem} />
          )}
          {builds && (
            <button type="button" className="link" onClick={() => void keep(null)}>
              Keep as sample
            </button>
          )}
          {count > 0 && (
            <>
              <button type="button" className="btn" onClick={drop}>
                Drop
              </button>
              <button type="button" className="btn btn-main" disabled={busy} onClick={() => void save()}>
                Save {count} {count === 1 ? 'edit' : 'edits'}
              </button>
            </>
          )}
        </div>
        <input
          aria-label="Title"
          className="-ml-1 mt-1 w-full border border-transparent px-1 text-[20px] leading-7 font-bold tracking-tight hover:border-line focus:border-teal"
          value={title}
          onChange={(e) => edit('title', e.target.value || null)}
        />
        <div className="mt-2 mb-2 flex items-center gap-3">
          {States({
            type,
            value: state,
            role: person.role,
            edited: 'state' in edits,
            onEdit: (next) => edit('state', next),
          })(String(edits.state ?? state))}
          {willState && (
            <span className="bg-plumbg px-2 text-plum">
              → <b>{lexicon.say(willState.after, lexicon.field(type.key, 'state'))}</b>
            </span>
          )}
        </div>
        <div className="border-t border-ink">
          <Fields
            type={type}
            values={ticket.values}
            edits={edits}
            view={view}
            lexicon={lexicon}
            run={dry.run}
            problem={problem ?? dry.problem}
            records={records}
            guards={guards}
            onEdit={edit}
            id={id}
          />
        </div>
        {count > 0 && <OnSaving run={dry.run} view={view} lexicon={lexicon} type={type.key} />}
        {meanwhile.length > 0 && (
          <p className="mt-3 border-l-3 border-red bg-paper px-3 py-2" role="status" data-test="meanwhile">
            Somebody saved{' '}
            {meanwhile
              .map(
                (key) =>
                  `${lexicon.label(type.key, key).toLowerCase()}: ${lexicon.say(ticket.values[key], lexicon.field(type.key, key))}`,
              )
              .join(', ')}{' '}
            while you were editing. Nothing is overwritten; on saving you choose.
          </p>
        )}
        <ProblemNote problem={problem ?? dry.problem} />
        {long.map((field) => (
          <div key={field.key} className="mt-4 block" data-test={`field-${field.key}`}>
            <h2 className="mb-1">
              {field.label}
              {guards.needed(field.key) && <b className="ml-2">needed: {guards.needed(field.key)}</b>}
              {guards.locked(field.key) && <span className="soft ml-2 font-normal">{guards.locked(field.key)}</span>}
            </h2>
            {guards.locked(field.key) ? (
              <p className="whitespace-pre-wrap">{lexicon.say(ticket.values[field.key], field)}</p>
            ) : (
              <ValueEditor
                field={field}
                value={field.key in edits ? edits[field.key] : ticket.values[field.key]}
                lexicon={lexicon}
                onChange={(v) => edit(field.key, v)}
              />
            )}
          </div>
        ))}
      </div>
      <aside className="overflow-auto border-l border-line px-4 py-3" aria-label="History" tabIndex={0}>
        <RelatedRecords groups={query.data.related} view={view} />
        <AddNote id={id} onDone={() => void query.refetch()} />
        <h2 className="mb-3">What happened</h2>
        <History
          runs={query.data.history}
          notes={query.data.notes}
          view={view}
          lexicon={lexicon}
          type={type.key}
          zone={view.desk.timezone}
          onTrace={setTrace}
          onKeep={builds ? (run, nameless) => void keep(run, nameless) : null}
        />
      </aside>
      <TraceDialog run={trace} view={view} onClose={() => setTrace(null)} />
      {stale && (
        <Stale
          current={stale}
          edits={edits}
          base={(base ?? ticket).values}
          lexicon={lexicon}
          onSettle={(kept) => {
            setStale(null);
            setBase(null);
            setEdits(kept);
            void query.refetch();
          }}
        />
      )}
    </section>
  );
}

export function NewTicket({ type: key, view, onDone }: { type: string; view: DeskView; onDone: () => void }) {
  const navigate = useNavigate();
  const type = view.lexicon.type(key);
  const [edits, setEdits] = useState<Values>({});
  const [problem, setProblem] = useState<Problem | null>(null);
  const dry = useDryRun(null, key, edits);
  const guards = useGuards(null, key, 0, dry.run);
  const records = useReferred(fieldsOf(type));
  if (!type) return null;
  const lexicon = view.lexicon.with({ ...dry.run?.names });
  const edit = (field: string, value: unknown) => {
    setProblem(null);
    setEdits((old) => {
      const next = { ...old, [field]: value };
      if (value === null || value === '') delete next[field];
      return next;
    });
  };
  const save = async () => {
    try {
      const answer = await api.createTicket(key, edits);
      onDone();
      navigate(`/tickets/${answer.ticket.id}`);
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  return (
    <section className="overflow-auto bg-sheet px-4 py-3" data-test="new-ticket">
      <span className="soft text-[13px]">New {type.title.toLowerCase()}</span>
      <input
        aria-label="Title"
        placeholder={type.fields.find((f) => f.key === 'title')?.question ?? 'Title'}
        className="-ml-1 mt-1 mb-2 w-full border border-line px-1 text-[20px] leading-8 font-bold tracking-tight focus:border-teal"
        // biome-ignore lint/a11y/noAutofocus: a new ticket starts with its title
        autoFocus
        onChange={(e) => edit('title', e.target.value)}
      />
      <div className="max-w-[860px] border-t border-ink">
        <Fields
          type={type}
          values={{}}
          edits={edits}
          view={view}
          lexicon={lexicon}
          run={dry.run}
          problem={problem}
          records={records}
          guards={guards}
          onEdit={edit}
          id={null}
        />
        {type.fields
          .filter((f) => isLong(f) && !guards.hidden(f.key))
          .map((field) => (
            <div key={field.key} className="mt-3 block">
              <h2 className="mb-1">{field.label}</h2>
              <ValueEditor
                field={field}
                value={edits[field.key]}
                lexicon={lexicon}
                onChange={(v) => edit(field.key, v)}
              />
            </div>
          ))}
        {Object.keys(edits).length > 0 && <OnSaving run={dry.run} view={view} lexicon={lexicon} type={key} />}
        <ProblemNote problem={problem} />
        <div className="mt-3 flex gap-2">
          <button type="button" className="btn btn-main" onClick={() => void save()}>
            Create
          </button>
          <button type="button" className="btn" onClick={onDone}>
            Drop
          </button>
        </div>
      </div>
    </section>
  );
}
