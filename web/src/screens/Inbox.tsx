import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query';
import { type ReactNode, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { api, type Incoming, type Outgoing, Problem } from '../api/client';
import { type DeskView, moment, useDesk } from '../app/desk';
import { useMay } from '../app/session';
import { ProblemNote } from '../parts/ProblemNote';

const BOXES = [
  ['in', 'Came in'],
  ['mail', 'Sent messages'],
  ['call', 'Calls'],
  ['addresses', 'Allowed addresses'],
] as const;

const STAGES: Record<Outgoing['stage'], [string, string]> = {
  waiting: ['waits', 'text-ochre'],
  sending: ['on its way', 'text-ochre'],
  sent: ['went through', 'text-teal'],
  failed: ['did not go through', 'text-red'],
};

interface Letter {
  from: string;
  subject: string;
  about: string;
  opens: string;
}

/** The stand-in mailbox: writes as somebody outside would. */
function Write({ start, view, onDone }: { start: Letter; view: DeskView; onDone: (ticket: string | null) => void }) {
  const [from, setFrom] = useState(start.from);
  const [subject, setSubject] = useState(start.subject);
  const [body, setBody] = useState('');
  const [isRich, setRich] = useState(false);
  const [about, setAbout] = useState(start.about);
  const [opens, setOpens] = useState(start.opens);
  const [problem, setProblem] = useState<Problem | null>(null);
  const client = useQueryClient();
  const send = async () => {
    try {
      const answer = await api.receive({
        from,
        subject,
        ...(isRich ? { html: body } : { text: body }),
        ...(about.trim() === '' ? { opens } : { about: about.trim() }),
      });
      await client.invalidateQueries({ queryKey: ['messages'] });
      onDone(answer.ticket.id);
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  const wrong = (key: string) => problem?.errors.find((e) => e.pointer === `/${key}`)?.detail;
  const row = (label: string, key: string, input: ReactNode) => (
    <div className="grid grid-cols-[84px_1fr] items-start gap-2">
      <span className="soft pt-1">{label}</span>
      <div>
        {input}
        {wrong(key) && (
          <p role="alert" className="text-[13px] text-red">
            ✕ {wrong(key)}
          </p>
        )}
      </div>
    </div>
  );
  return (
    <form
      className="flex max-w-[680px] flex-col gap-2 border-b border-line bg-paper px-4 py-3"
      data-test="write"
      onSubmit={(e) => {
        e.preventDefault();
        void send();
      }}
    >
      <h2>A message comes in</h2>
      {row(
        'from',
        'from',
        <input
          className="field w-full"
          aria-label="From"
          list="addresses-known"
          value={from}
          onChange={(e) => setFrom(e.target.value)}
        />,
      )}
      <datalist id="addresses-known">
        {view.desk.people.flatMap((p) => (p.email ? [<option key={p.key} value={p.email} />] : []))}
      </datalist>
      {row(
        'subject',
        'subject',
        <input
          className="field w-full"
          aria-label="Subject"
          value={subject}
          onChange={(e) => setSubject(e.target.value)}
        />,
      )}
      {row(
        'about',
        'about',
        <span className="flex items-center gap-2">
          <input
            className="field w-[110px]"
            aria-label="About"
            placeholder="F-12"
            value={about}
            onChange={(e) => setAbout(e.target.value)}
          />
          {about.trim() === '' && (
            <>
              <span className="soft">or opens a</span>
              <select className="field" aria-label="Opens" value={opens} onChange={(e) => setOpens(e.target.value)}>
                {view.types
                  .filter((t) => t.kind === 'ticket')
                  .map((t) => (
                    <option key={t.key} value={t.key}>
                      {t.title.toLowerCase()}
                    </option>
                  ))}
              </select>
            </>
          )}
        </span>,
      )}
      {wrong('opens') && <p className="text-[13px] text-red">✕ {wrong('opens')}</p>}
      {row(
        isRich ? 'markup' : 'text',
        isRich ? 'html' : 'text',
        <textarea
          className="field w-full"
          rows={4}
          aria-label="Body"
          value={body}
          onChange={(e) => setBody(e.target.value)}
        />,
      )}
      <div className="flex items-center gap-3 pl-[92px]">
        <label className="soft">
          <input type="checkbox" checked={isRich} onChange={(e) => setRich(e.target.checked)} /> as markup
        </label>
        <span className="flex-1" />
        <button type="button" className="btn" onClick={() => onDone(null)}>
          Drop
        </button>
        <button type="submit" className="btn btn-main">
          It comes in
        </button>
      </div>
      <ProblemNote problem={problem && problem.errors.length === 0 ? problem : null} />
    </form>
  );
}

function Came({ message, view, onReply }: { message: Incoming; view: DeskView; onReply: () => void }) {
  const [open, setOpen] = useState(false);
  const when = moment(message.at, view.desk.timezone);
  return (
    <tr data-test="incoming">
      <td className="soft whitespace-nowrap" title={when.exact}>
        {when.short}
      </td>
      <td className="max-w-[180px] truncate" title={message.from}>
        {message.person ? view.lexicon.person(message.person) : message.from}
      </td>
      <td>
        <button type="button" className="text-left hover:underline" aria-expanded={open} onClick={() => setOpen(!open)}>
          {message.subject || <span className="soft">no subject</span>}
        </button>
        {open && <p className="mt-1 max-w-[80ch] whitespace-pre-wrap">{message.text}</p>}
      </td>
      <td className="whitespace-nowrap">
        {message.opened ? 'opened' : 'about'}{' '}
        <Link to={`/tickets/${message.record}`} className="mono hover:underline" title={message.name ?? ''}>
          {message.record}
        </Link>
      </td>
      <td className="text-right whitespace-nowrap">
        <button type="button" className="link" onClick={onReply}>
          write again
        </button>
      </td>
    </tr>
  );
}

function AnswerCall({ call, onDone }: { call: Outgoing; onDone: () => void }) {
  const [status, setStatus] = useState('200');
  const [body, setBody] = useState('{}');
  const [problem, setProblem] = useState<Problem | null>(null);
  return (
    <form
      className="mt-2 flex flex-wrap items-center gap-2"
      onSubmit={async (e) => {
        e.preventDefault();
        try {
          await api.answerCall(call.outgoing, { status: status === '' ? null : Number(status), body });
          onDone();
        } catch (error) {
          setProblem(Problem.of(error));
        }
      }}
    >
      <label className="soft">
        status{' '}
        <input
          className="field w-[64px]"
          aria-label="Status of the answer"
          value={status}
          onChange={(e) => setStatus(e.target.value)}
        />
      </label>
      <input
        className="field mono min-w-[220px] flex-1"
        aria-label="Body of the answer"
        value={body}
        onChange={(e) => setBody(e.target.value)}
      />
      <button type="submit" className="btn">
        Answer so
      </button>
      <ProblemNote problem={problem} />
    </form>
  );
}

const said = (value: unknown): string => (typeof value === 'string' ? value : JSON.stringify(value ?? null));

function Went({ item, view, onReply }: { item: Outgoing; view: DeskView; onReply: () => void }) {
  const client = useQueryClient();
  const builds = useMay('builder');
  const [open, setOpen] = useState(false);
  const when = moment(item.at, view.desk.timezone);
  const [words, tone] = STAGES[item.stage];
  return (
    <tr data-test={`outgoing-${item.kind}`} data-stage={item.stage}>
      <td className="soft whitespace-nowrap" title={when.exact}>
        {when.short}
      </td>
      <td className="max-w-[180px] truncate" title={item.name}>
        {item.name}
      </td>
      <td>
        <button type="button" className="text-left hover:underline" aria-expanded={open} onClick={() => setOpen(!open)}>
          {item.kind === 'mail' ? said(item.data.subject) : `${said(item.data.method)} ${said(item.data.endpoint)}`}
        </button>
        {item.problem && <p className="text-[13px] text-red">{item.problem}</p>}
        {open && (
          <div className="mt-1">
            <p className={`max-w-[80ch] whitespace-pre-wrap ${item.kind === 'call' ? 'mono' : ''}`}>
              {said(item.data.body)}
            </p>
            {item.answer && (
              <p className="mt-1">
                <span className="soft">answered </span>
                <span className="mono">{item.answer}</span>
              </p>
            )}
            {builds && item.kind === 'call' && item.stage !== 'sent' && (
              <AnswerCall
                call={item}
                onDone={() => {
                  void client.invalidateQueries({ queryKey: ['outgoing'] });
                }}
              />
            )}
          </div>
        )}
      </td>
      <td className="whitespace-nowrap">
        {item.record && (
          <Link to={`/tickets/${item.record}`} className="mono hover:underline">
            {item.record}
          </Link>
        )}
        {item.rule && (
          <span className="soft block max-w-[200px] truncate" title={view.rule(item.rule)}>
            {view.rule(item.rule)}
          </span>
        )}
      </td>
      <td className={`text-right whitespace-nowrap ${tone}`}>
        {words}
        {item.status !== null && ` (${item.status})`}
        {item.tries > 1 && <span className="soft block">{item.tries} tries</span>}
        {item.kind === 'mail' && (
          <button type="button" className="link block w-full text-right" onClick={onReply}>
            answer it
          </button>
        )}
      </td>
    </tr>
  );
}

function Addresses() {
  const client = useQueryClient();
  const rules = useMay('administrator');
  const { data } = useQuery({ queryKey: ['addresses'], queryFn: api.addresses });
  const [address, setAddress] = useState('');
  const [inside, setInside] = useState(false);
  const [standIn, setStandIn] = useState(false);
  const [credentials, setCredentials] = useState('');
  const [problem, setProblem] = useState<Problem | null>(null);
  const take = (act: Promise<unknown>) =>
    act.then(
      () => {
        setProblem(null);
        setAddress('');
        setCredentials('');
        return client.invalidateQueries({ queryKey: ['addresses'] });
      },
      (error: unknown) => setProblem(Problem.of(error)),
    );
  return (
    <div className="max-w-[820px] px-4 py-3" data-test="addresses">
      <p className="mb-3">
        Rules call these addresses, and what lies below them; no other is called, and where a call is sent on to is not
        followed.
      </p>
      <table className="ledger">
        <thead>
          <tr>
            <th>Address</th>
            <th>Goes to</th>
            <th>Credentials</th>
            <th aria-label="Act" />
          </tr>
        </thead>
        <tbody>
          {data?.addresses.map((a) => (
            <tr key={a.id}>
              <td className="mono">{a.address}</td>
              <td>
                {a.stand_in ? 'the stand-in' : a.inside ? 'the network outside and inside' : 'the network outside'}
              </td>
              <td>{a.has_credentials ? 'kept encrypted' : <span className="soft">none</span>}</td>
              <td className="text-right">
                {rules && (
                  <button type="button" className="link" onClick={() => void take(api.forbidAddress(a.id))}>
                    no longer allow
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {data?.addresses.length === 0 && <p className="soft py-2">None is allowed yet; calls of rules fail.</p>}
      {rules ? (
        <form
          className="mt-4 flex flex-wrap items-center gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            void take(
              api.allowAddress({
                address,
                inside,
                stand_in: standIn,
                credentials: credentials === '' ? null : credentials,
              }),
            );
          }}
        >
          <input
            className="field w-[300px]"
            placeholder="https://yard.example/orders"
            aria-label="Address to allow"
            value={address}
            onChange={(e) => setAddress(e.target.value)}
          />
          <input
            className="field w-[200px]"
            placeholder="Authorization, if needed"
            aria-label="Credentials"
            value={credentials}
            onChange={(e) => setCredentials(e.target.value)}
          />
          <label>
            <input type="checkbox" checked={inside} onChange={(e) => setInside(e.target.checked)} /> may lie on this
            network
          </label>
          <label>
            <input type="checkbox" checked={standIn} onChange={(e) => setStandIn(e.target.checked)} /> the stand-in
            answers
          </label>
          <button type="submit" className="btn" disabled={address.trim() === ''}>
            Allow
          </button>
        </form>
      ) : (
        <p className="soft mt-3">Administrators allow addresses.</p>
      )}
      <ProblemNote problem={problem} />
    </div>
  );
}

/** What comes in and what goes out; with the stand-ins, both sides of it. */
export default function Inbox() {
  const view = useDesk();
  const [search, setSearch] = useSearchParams();
  const box = BOXES.find(([key]) => key === search.get('box'))?.[0] ?? 'in';
  const [letter, setLetter] = useState<Letter | null>(null);
  const [last, setLast] = useState<string | null>(null);
  const messages = useInfiniteQuery({
    queryKey: ['messages'],
    queryFn: ({ pageParam }) => api.messages(pageParam),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.next,
    enabled: box === 'in',
    refetchInterval: 5000,
  });
  const outgoing = useInfiniteQuery({
    queryKey: ['outgoing', box],
    queryFn: ({ pageParam }) => api.outgoing(`kind=${box}${pageParam ? `&before=${pageParam}` : ''}`),
    initialPageParam: null as number | null,
    getNextPageParam: (page) => page.next,
    enabled: box === 'mail' || box === 'call',
    refetchInterval: 3000,
  });
  if (!view) return null;
  const first = view.types.find((t) => t.kind === 'ticket')?.key ?? '';
  const requests = view.types.find((t) => t.key === 'request')?.key ?? first;
  const blank: Letter = { from: '', subject: '', about: '', opens: requests };
  const came = messages.data?.pages.flatMap((p) => p.messages) ?? [];
  const went = outgoing.data?.pages.flatMap((p) => p.outgoing) ?? [];
  const more = box === 'in' ? messages : outgoing;
  const heads: Record<string, string[]> = {
    in: ['When', 'From', 'Subject', 'Came to', ''],
    mail: ['When', 'To', 'Subject', 'From', ''],
    call: ['When', 'Call', 'Where', 'From', ''],
  };
  const widths = ['w-[92px]', 'w-[190px]', '', 'w-[210px]', 'w-[150px]'];
  return (
    <main className="flex h-full flex-col">
      <div className="head">
        <h1>Inbox</h1>
        <div className="flex" role="radiogroup" aria-label="Box">
          {BOXES.map(([key, words]) => (
            <button
              key={key}
              type="button"
              role="radio"
              aria-checked={box === key}
              className={`border border-l-0 border-line px-2.5 py-1 text-[13px] first:border-l ${box === key ? 'bg-ink font-semibold text-paper' : 'bg-sheet'}`}
              onClick={() => setSearch(key === 'in' ? {} : { box: key }, { replace: true })}
            >
              {words}
            </button>
          ))}
        </div>
        <span className="flex-1" />
        {last && (
          <Link to={`/tickets/${last}`} className="link" data-test="came-to">
            It came to {last}
          </Link>
        )}
        <button type="button" className="btn btn-main" onClick={() => setLetter(blank)}>
          Write as somebody outside
        </button>
      </div>
      <div className="min-h-0 flex-1 overflow-auto bg-sheet" role="region" aria-label="Messages" tabIndex={0}>
        {letter && (
          <Write
            key={JSON.stringify(letter)}
            start={letter}
            view={view}
            onDone={(ticket) => {
              setLetter(null);
              setLast(ticket);
            }}
          />
        )}
        {box === 'addresses' ? (
          <Addresses />
        ) : (
          <>
            <table className="ledger">
              <thead>
                <tr>
                  {heads[box]?.map((head, i) => (
                    <th key={i} className={widths[i]} aria-label={head || 'Act'}>
                      {head}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {box === 'in'
                  ? came.map((m) => (
                      <Came
                        key={m.message}
                        message={m}
                        view={view}
                        onReply={() =>
                          setLetter({ from: m.from, subject: `Re: ${m.subject}`, about: m.record, opens: requests })
                        }
                      />
                    ))
                  : went.map((item) => (
                      <Went
                        key={item.outgoing}
                        item={item}
                        view={view}
                        onReply={() =>
                          setLetter({
                            from: item.name.split(', ')[0] ?? '',
                            subject: `Re: ${said(item.data.subject)}`,
                            about: item.record ?? '',
                            opens: requests,
                          })
                        }
                      />
                    ))}
              </tbody>
            </table>
            {more.isSuccess && (box === 'in' ? came : went).length === 0 && (
              <p className="soft px-4 py-6">
                {box === 'in'
                  ? 'Nothing has come in yet.'
                  : box === 'mail'
                    ? 'Nothing has been sent yet.'
                    : 'No rule has called yet.'}
              </p>
            )}
            {more.hasNextPage && (
              <p className="px-4 py-3">
                <button type="button" className="btn" onClick={() => void more.fetchNextPage()}>
                  Earlier ones
                </button>
              </p>
            )}
          </>
        )}
      </div>
    </main>
  );
}
