import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { type Ask as AskData, type AskType, api, type OwnTicket, Problem } from '../../api/client';
import type { FieldTree, TypeTree, Values } from '../../api/trees';
import { moment } from '../../app/desk';
import { Lexicon } from '../../app/lexicon';
import { ProblemNote } from '../../parts/ProblemNote';
import { PercentBar, ValueEditor } from '../../parts/ValueEditor';

const BUILT_IN = ['number', 'state', 'assignee', 'team', 'created_at', 'changed_at', 'tags', 'requester', 'created_by'];

function lexiconOf(ask: AskData): Lexicon {
  const types = ask.types.map(
    (type): TypeTree => ({
      key: type.key,
      title: type.title,
      kind: 'ticket',
      states: type.states,
      fields: type.shown.filter((f) => !BUILT_IN.includes(f.key)) as FieldTree[],
    }),
  );
  const people = ask.people.map((p) => ({ ...p, email: '', active: true, away: false }));
  const teams = ask.teams.map((t) => ({ ...t, members: [] }));
  return new Lexicon(types, people, teams, ask.names, ask.timezone);
}

/** What guards make of a form as it is filled in; the server decides, also about what remains to choose. */
function useForm(type: AskType, values: Values) {
  const text = JSON.stringify(values);
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), 150);
    return () => clearTimeout(timer);
  }, [text]);
  const { data } = useQuery({
    queryKey: ['ask dry run', type.key, settled],
    queryFn: () => api.askDryRun(type.key, JSON.parse(settled) as Values),
    placeholderData: (old, query) => (query?.queryKey[1] === type.key ? old : undefined),
    gcTime: 0,
  });
  const has = (effect: string, field: string) => data?.guards.find((g) => g.effect === effect && g.field === field);
  return { isKnown: data !== undefined, has, refused: data?.refused ?? [], settled: JSON.parse(settled) as Values };
}

function Question({
  type,
  field,
  values,
  settled,
  lexicon,
  isLimited,
  needed,
  mistake,
  onChange,
}: {
  type: AskType;
  field: FieldTree;
  values: Values;
  settled: Values;
  lexicon: Lexicon;
  isLimited: boolean;
  needed: string | null;
  mistake: string | undefined;
  onChange: (value: unknown) => void;
}) {
  const { [field.key]: _, ...others } = settled;
  const asks = isLimited || field.to !== undefined;
  const find = (words: string) =>
    api.askChoices({ type: type.key, values: others, field: field.key, q: words }).then((found) => found.records ?? []);
  const { data } = useQuery({
    queryKey: ['ask choices', type.key, field.key, isLimited ? JSON.stringify(others) : ''],
    queryFn: () => api.askChoices({ type: type.key, values: others, field: field.key, q: '' }),
    enabled: asks,
    placeholderData: (old) => old,
  });
  const options = data?.options ?? null;
  const limited =
    options === null
      ? field
      : {
          ...field,
          options: (field.options ?? [])
            .map((o) => (o.children ? { ...o, children: o.children.filter((c) => options.includes(c.key)) } : o))
            .filter((o) => options.includes(o.key) || (o.children?.length ?? 0) > 0),
        };
  const names = Object.fromEntries((data?.records ?? []).map((r) => [r.id, r.name]));
  // what was chosen before and no longer remains is shown as what it is: gone
  const value = values[field.key];
  return (
    <div className="mb-4" data-test={`question-${field.key}`}>
      <p className="mb-1 font-semibold">
        {field.question}
        {(field.required || needed) && <span className="soft ml-2 font-normal">{needed ?? 'needed'}</span>}
      </p>
      {asks && !data ? (
        <span className="soft">…</span>
      ) : (
        <ValueEditor
          field={limited}
          value={value}
          lexicon={lexicon.with(names)}
          records={data?.records ?? []}
          find={find}
          label={field.question ?? field.label}
          invalid={mistake !== undefined}
          onChange={onChange}
        />
      )}
      {mistake && (
        <p role="alert" className="mt-1 text-[13px] text-red">
          ✕ {mistake}
        </p>
      )}
    </div>
  );
}

function Form({ type, lexicon }: { type: AskType; lexicon: Lexicon }) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const [values, setValues] = useState<Values>({});
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const form = useForm(type, values);
  const any = Object.keys(values).length > 0;
  const send = async () => {
    setBusy(true);
    try {
      const { ticket } = await api.sendAsk(type.key, values);
      await client.invalidateQueries({ queryKey: ['ask'] });
      navigate(`/ask/${ticket.id}?sent=1`);
    } catch (error) {
      setProblem(Problem.of(error));
    } finally {
      setBusy(false);
    }
  };
  const shown = (type.fields as FieldTree[]).filter((f) => !form.has('hidden', f.key) && !form.has('read_only', f.key));
  const mistake = (key: string) =>
    problem?.errors.find((e) => e.pointer === `/values/${key}`)?.detail ??
    (key in values ? form.refused.find((r) => r.field === key)?.reason : undefined);
  const others = problem?.errors.filter((e) => !shown.some((f) => e.pointer === `/values/${f.key}`)) ?? [];
  return (
    <form
      className="max-w-[620px]"
      data-test="ask-form"
      onSubmit={(e) => {
        e.preventDefault();
        void send();
      }}
    >
      <h1 className="mb-4">{type.title}</h1>
      {form.isKnown &&
        shown.map((field) => (
          <Question
            key={field.key}
            type={type}
            field={field}
            values={values}
            settled={form.settled}
            lexicon={lexicon}
            isLimited={form.has('choices', field.key) !== undefined}
            needed={form.has('required', field.key)?.reason ?? null}
            mistake={mistake(field.key)}
            onChange={(value) => {
              setProblem(null);
              setValues((old) => {
                const next = { ...old, [field.key]: value };
                if (value === null || value === '') delete next[field.key];
                return next;
              });
            }}
          />
        ))}
      {problem && (problem.errors.length === 0 || others.length > 0) && <ProblemNote problem={problem} />}
      <button type="submit" className="btn btn-main" disabled={busy || !any}>
        Send
      </button>
    </form>
  );
}

function Own({ id, ask, lexicon: base }: { id: string; ask: AskData; lexicon: Lexicon }) {
  const client = useQueryClient();
  const [search] = useSearchParams();
  const [text, setText] = useState('');
  const [problem, setProblem] = useState<Problem | null>(null);
  const query = useQuery({ queryKey: ['own ticket', id], queryFn: () => api.ownTicket(id), refetchInterval: 5000 });
  if (query.isError) return <ProblemNote problem={Problem.of(query.error)} />;
  if (!query.data) return null;
  const { ticket, notes, moves, names } = query.data;
  const lexicon = base.with(names);
  const type = ask.types.find((t) => t.key === ticket.type);
  const show = (page: OwnTicket) => client.setQueryData(['own ticket', id], page);
  const act = async (work: () => Promise<void>) => {
    try {
      await work();
      setProblem(null);
      await query.refetch();
      await client.invalidateQueries({ queryKey: ['ask'] });
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  const facts = (type?.shown ?? []).filter(
    (f) =>
      !['number', 'state', 'title', 'created_at', 'changed_at'].includes(f.key) && ticket.values[f.key] !== undefined,
  ) as FieldTree[];
  const created = moment(ticket.created_at, ask.timezone);
  return (
    <section className="max-w-[720px]" data-test="own-ticket">
      {search.has('sent') && (
        <p className="mb-3 border-l-3 border-teal bg-tealbg px-3 py-2">
          Sent. Its number is <b className="mono">{id}</b>; what becomes of it stands here.
        </p>
      )}
      <p className="text-[13px]">
        <span className="mono">{id}</span> {type?.title}{' '}
        <span className="soft" title={created.exact}>
          {created.short}
        </span>
      </p>
      <h1 className="mt-1">{String(ticket.values.title ?? '')}</h1>
      <p className="mt-2 mb-3 flex items-center gap-2">
        <b className="border border-ink px-2 py-0.5" data-test="own-state">
          {lexicon.say(ticket.values.state, lexicon.field(ticket.type, 'state'))}
        </b>
        {moves.map((move) => (
          <button
            key={move.key}
            type="button"
            className="btn"
            onClick={() =>
              void act(async () => {
                show(await api.changeOwnTicket(id, { state: move.key }, ticket.version));
              })
            }
          >
            Back to “{move.label}”
          </button>
        ))}
      </p>
      <dl className="grid grid-cols-[200px_1fr] border-t border-ink">
        {facts.map((field) => (
          <div key={field.key} className="col-span-2 grid grid-cols-subgrid border-b border-faint py-1">
            <dt className="soft">{field.label}</dt>
            <dd className="whitespace-pre-wrap">
              {field.type === 'percent' && typeof ticket.values[field.key] === 'number' ? (
                <PercentBar value={ticket.values[field.key] as number} />
              ) : (
                lexicon.say(ticket.values[field.key], field)
              )}
            </dd>
          </div>
        ))}
      </dl>
      <h2 className="mt-5 mb-2">Notes</h2>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void act(async () => {
            await api.addOwnNote(id, text);
            setText('');
          });
        }}
      >
        <textarea
          className="field w-full"
          rows={2}
          aria-label="A note to the desk"
          placeholder="A note to the desk"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <button type="submit" className="btn mt-1" disabled={text.trim() === ''}>
          Add note
        </button>
      </form>
      <ProblemNote problem={problem} />
      <ol className="mt-3 flex flex-col gap-3" data-test="own-notes">
        {notes.map((note) => {
          const when = moment(note.at, ask.timezone);
          return (
            <li key={note.note} className="border-l border-line pl-3">
              <b>{lexicon.person(note.by)}</b>{' '}
              <span className="soft" title={when.exact}>
                {when.short}
              </span>
              <p className="whitespace-pre-wrap">{note.text}</p>
            </li>
          );
        })}
      </ol>
    </section>
  );
}

/** The requester's side: a form for each type of ticket, and one's own tickets. */
export default function Ask() {
  const { id } = useParams();
  const [search] = useSearchParams();
  const query = useQuery({ queryKey: ['ask'], queryFn: api.ask });
  const lexicon = useMemo(() => query.data && lexiconOf(query.data), [query.data]);
  if (query.isError)
    return (
      <main className="p-10">
        <ProblemNote problem={Problem.of(query.error)} />
      </main>
    );
  if (!query.data || !lexicon) return <main className="soft p-10">Reading the forms …</main>;
  const ask = query.data;
  const wanted = search.get('type');
  const type = ask.types.find((t) => t.key === wanted) ?? ask.types[0];
  return (
    <main className="grid h-full grid-cols-[300px_minmax(0,1fr)]">
      <nav className="flex min-h-0 flex-col overflow-auto border-r border-line" aria-label="Forms and tickets">
        <h2 className="px-4 pt-4 pb-1">What is it about?</h2>
        {ask.types.map((each) => (
          <Link
            key={each.key}
            to={`/ask?type=${each.key}`}
            aria-current={!id && each === type ? 'page' : undefined}
            className={`border-l-3 px-[13px] py-1.5 font-semibold ${!id && each === type ? 'border-teal bg-sheet' : 'border-transparent hover:bg-faint'}`}
          >
            {each.title}
          </Link>
        ))}
        <h2 className="px-4 pt-5 pb-1">Your tickets</h2>
        {ask.tickets.length === 0 && <p className="soft px-4">You have asked for nothing yet.</p>}
        {ask.tickets.map((ticket) => (
          <Link
            key={ticket.id}
            to={`/ask/${ticket.id}`}
            aria-current={ticket.id === id ? 'page' : undefined}
            className={`block border-b border-faint border-l-3 px-[13px] py-1.5 ${ticket.id === id ? 'border-l-teal bg-sheet' : 'border-l-transparent'}`}
            data-test={`own-${ticket.id}`}
          >
            <span className="mono soft">{ticket.id}</span> {String(ticket.values.title ?? '')}
            <span className="soft block text-[12.5px]">
              {lexicon.say(ticket.values.state, lexicon.field(ticket.type, 'state'))} ·{' '}
              {moment(ticket.changed_at, ask.timezone).short}
            </span>
          </Link>
        ))}
      </nav>
      <div className="overflow-auto bg-sheet px-8 py-5">
        {id ? (
          <Own key={id} id={id} ask={ask} lexicon={lexicon} />
        ) : type ? (
          <Form key={type.key} type={type} lexicon={lexicon} />
        ) : (
          <p>Nothing is asked on this desk yet.</p>
        )}
      </div>
    </main>
  );
}
