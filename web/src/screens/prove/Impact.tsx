import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { api, Problem } from '../../api/client';
import { moment } from '../../app/desk';
import { useWorkshop } from '../../app/workshop';
import { ProblemNote } from '../../parts/ProblemNote';
import { SideBySide } from './SideBySide';
import { useWork } from './useWork';
import { WorkHead } from './WorkHead';

interface Line {
  number: number;
  record: string;
  name: string;
  type: string;
  kind: string;
  at: string;
  fields: { field: string; was: unknown; would: unknown; rule: string | null }[];
  starts: string[];
  stops: string[];
  why: string | null;
}

export interface ImpactResult {
  counts?: { events: number; same: number; otherwise: number; not_known: number };
  rules?: { rule: string; starts: number; stops: number; fields: number }[];
  fields?: { type: string; field: string; count: number; values: { was: unknown; would: unknown; count: number }[] }[];
  months?: { month: string; events: number; otherwise: number }[];
  gaps?: { why: string; count: number }[];
  lines?: Line[];
}

const BACK = [
  [0, 'all of them'],
  [30, 'the last 30 days'],
  [90, 'the last 90 days'],
  [365, 'the last year'],
] as const;

/** A value of a field in words. */
function useSay() {
  const { lexicon } = useWorkshop();
  return (type: string, key: string, value: unknown): string =>
    value === null || value === undefined || value === '' ? 'empty' : lexicon.say(value, lexicon.field(type, key));
}

function Months({ months }: { months: NonNullable<ImpactResult['months']> }) {
  const most = Math.max(1, ...months.map((m) => m.events));
  return (
    <div
      className="flex h-[104px] items-end gap-1"
      role="img"
      aria-label="Events by month, and those that come out otherwise"
    >
      {months.map((m) => (
        <div
          key={m.month}
          className="flex w-11 flex-col items-center"
          title={`${m.month}: ${m.otherwise} of ${m.events}`}
        >
          <span className="text-[12px] tabular-nums">{m.otherwise > 0 ? m.otherwise : ''}</span>
          <span
            className="flex w-full flex-col justify-end border-b border-ink bg-faint"
            style={{ height: `${(m.events / most) * 64}px` }}
          >
            <span className="block bg-plum" style={{ height: `${(m.otherwise / most) * 64}px` }} />
          </span>
          <span className="soft text-[11.5px]">{m.month.slice(2).replace('-', '/')}</span>
        </div>
      ))}
    </div>
  );
}

/** How many come out otherwise, and when they were. */
export function ImpactCounts({ result, asker }: { result: ImpactResult; asker: string }) {
  const counts = result.counts;
  if (!counts) return null;
  return (
    <div className="flex flex-wrap items-end gap-x-6 gap-y-3 py-3">
      <div className="min-w-[340px] flex-1">
        <p className="text-[18px]" data-test="impact-counts">
          <b className={counts.otherwise > 0 ? 'text-plum' : 'text-teal'}>{counts.otherwise.toLocaleString('en')}</b> of{' '}
          {counts.events.toLocaleString('en')} events would have come out otherwise.
        </p>
        <p className="soft">
          {counts.same.toLocaleString('en')} the same
          {counts.not_known > 0 &&
            `; ${counts.not_known.toLocaleString('en')} cannot be told, since ${asker} asks for something that was not read then`}
          .
        </p>
        {(result.gaps ?? []).length > 0 && (
          <details className="soft mt-1">
            <summary className="cursor-pointer leading-6">What was not read</summary>
            <ul>
              {result.gaps?.map((gap) => (
                <li key={gap.why}>
                  {gap.count}: {gap.why}
                </li>
              ))}
            </ul>
          </details>
        )}
      </div>
      <Months months={result.months ?? []} />
    </div>
  );
}

/** A count beside the most that it could be. */
function Share({ of, most }: { of: number; most: number }) {
  return (
    <span className="block h-[5px] w-full bg-faint" aria-hidden="true">
      <span className="block h-full bg-plum" style={{ width: `${(of / Math.max(1, most)) * 100}%` }} />
    </span>
  );
}

function Summary({ result }: { result: ImpactResult }) {
  const shop = useWorkshop();
  const say = useSay();
  const [search, setSearch] = useSearchParams();
  const rule = search.get('rule') ?? '';
  const field = search.get('field') ?? '';
  const counts = result.counts;
  if (!counts) return null;
  const title = (key: string) => shop.rules.find(({ tree }) => tree.key === key)?.tree.title ?? key;
  const toggle = (name: string, value: string) => {
    const next = new URLSearchParams(search);
    if (next.get(name) === value) next.delete(name);
    else next.set(name, value);
    setSearch(next, { replace: true });
  };
  const lines = (result.lines ?? []).filter(
    (line) =>
      (field === '' || line.fields.some((f) => `${line.type}.${f.field}` === field)) &&
      (rule === '' ||
        line.starts.includes(rule) ||
        line.stops.includes(rule) ||
        line.fields.some((f) => f.rule === rule)),
  );
  return (
    <>
      <ImpactCounts result={result} asker="the draft" />
      {counts.otherwise > 0 && (
        <>
          <div className="grid grid-cols-2 gap-6 border-t border-line pt-3">
            <section>
              <h2>By field</h2>
              <ul data-test="impact-fields">
                {(result.fields ?? []).map((f) => {
                  const key = `${f.type}.${f.field}`;
                  return (
                    <li key={key} className={`border-b border-faint py-1 ${field === key ? 'bg-tealbg' : ''}`}>
                      <button
                        type="button"
                        className="flex w-full items-baseline gap-2 text-left hover:underline"
                        aria-pressed={field === key}
                        onClick={() => toggle('field', key)}
                      >
                        <b className="w-12 text-right tabular-nums">{f.count}</b>
                        <span>
                          {shop.lexicon.field(f.type, f.field)?.label ?? f.field}
                          <span className="soft"> of {shop.lexicon.type(f.type)?.title.toLowerCase() ?? f.type}</span>
                        </span>
                        <span className="ml-auto w-[104px] shrink-0 self-center">
                          <Share of={f.count} most={counts.otherwise} />
                        </span>
                      </button>
                      <ul className="ml-14 text-[13px]">
                        {f.values.slice(0, 4).map((v) => (
                          <li key={JSON.stringify([v.was, v.would])} className="flex items-baseline gap-2">
                            <span
                              className="min-w-0 flex-1 truncate"
                              title={`${say(f.type, f.field, v.was)} → ${say(f.type, f.field, v.would)}`}
                            >
                              <span className="soft">{say(f.type, f.field, v.was)}</span> →{' '}
                              <span className="text-plum">{say(f.type, f.field, v.would)}</span>
                            </span>
                            <span className="soft w-12 shrink-0 text-right tabular-nums">{v.count}</span>
                            <span className="w-[104px] shrink-0 self-center">
                              <Share of={v.count} most={counts.otherwise} />
                            </span>
                          </li>
                        ))}
                        {f.values.length > 4 && <li className="soft">and {f.values.length - 4} other ways</li>}
                      </ul>
                    </li>
                  );
                })}
              </ul>
            </section>
            <section>
              <h2>By rule</h2>
              <ul data-test="impact-rules">
                {(result.rules ?? []).map((r) => (
                  <li key={r.rule} className={`border-b border-faint py-1 ${rule === r.rule ? 'bg-tealbg' : ''}`}>
                    <button
                      type="button"
                      className="flex w-full items-baseline gap-2 text-left hover:underline"
                      aria-pressed={rule === r.rule}
                      onClick={() => toggle('rule', r.rule)}
                    >
                      <span className="min-w-0 flex-1">{title(r.rule)}</span>
                      <span className="w-[104px] shrink-0 self-center">
                        <Share of={Math.max(r.fields, r.starts, r.stops)} most={counts.otherwise} />
                      </span>
                    </button>
                    <p className="soft text-[13px]">
                      {[
                        r.fields > 0 && `sets something otherwise in ${r.fields}`,
                        r.starts > 0 && `◆ acts in ${r.starts} where it did not`,
                        r.stops > 0 && `◇ stays still in ${r.stops} where it acted`,
                      ]
                        .filter(Boolean)
                        .join(', ')}
                    </p>
                  </li>
                ))}
              </ul>
            </section>
          </div>
          <section className="mt-5">
            <h2>
              The events{' '}
              <span className="soft font-normal">
                {lines.length}
                {counts.otherwise > (result.lines ?? []).length && ` of the first ${(result.lines ?? []).length}`}
              </span>
            </h2>
            <table className="ledger mt-1 w-full" data-test="impact-lines">
              <tbody>
                {lines.slice(0, 200).map((line) => {
                  const when = moment(line.at, shop.draft.timezone);
                  return (
                    <tr key={line.number} className="border-b border-faint align-top">
                      <td className="mono py-1 pr-3 whitespace-nowrap">{line.record}</td>
                      <td className="py-1 pr-3">
                        <Link className="link leading-6" to={`/impact/${line.number}`}>
                          {line.name}
                        </Link>
                      </td>
                      <td className="soft py-1 pr-3 whitespace-nowrap" title={when.exact}>
                        {line.kind}, {when.short}
                      </td>
                      <td className="py-1">
                        {line.why && <span className="text-red">turned down: {line.why} </span>}
                        {line.fields.map((f) => (
                          <span key={f.field} className="mr-3 inline-block">
                            <span className="soft">{shop.lexicon.field(line.type, f.field)?.label ?? f.field} </span>
                            {say(line.type, f.field, f.was)} →{' '}
                            <span className="text-plum">{say(line.type, f.field, f.would)}</span>
                          </span>
                        ))}
                        {line.fields.length === 0 && !line.why && (
                          <span className="soft">
                            {[
                              ...line.starts.map((r) => `◆ ${title(r)}`),
                              ...line.stops.map((r) => `◇ ${title(r)}`),
                            ].join(', ')}
                          </span>
                        )}
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          </section>
        </>
      )}
    </>
  );
}

function One({ number }: { number: number }) {
  const shop = useWorkshop();
  const navigate = useNavigate();
  const say = useSay();
  const [problem, setProblem] = useState<Problem | null>(null);
  const query = useQuery({
    queryKey: ['past', number, shop.stamp],
    queryFn: () => api.comparePast(number),
    placeholderData: (old) => old,
  });
  const data = query.data;
  const keep = async () => {
    try {
      const { tree } = await api.pastAsSample(number);
      const answer = await api.addPart('samples', tree);
      shop.saved('samples', answer);
      navigate(`/samples/${answer.part.key}`);
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  if (query.isError) return <ProblemNote problem={Problem.of(query.error)} />;
  if (!data) return null;
  const when = moment(data.at, shop.draft.timezone);
  const keys = [...new Set([...Object.keys(data.after), ...Object.keys(data.draft.values)])].filter(
    (key) =>
      key !== 'changed_at' &&
      JSON.stringify(data.after[key] ?? null) !== JSON.stringify(data.draft.values[key] ?? null),
  );
  return (
    <div className="flex h-full flex-col" data-test="compared">
      <div className="border-b border-line px-5 py-3">
        <p className="flex items-baseline gap-3">
          <Link className="link leading-6" to="/impact">
            ◂ Impact
          </Link>
          <span className="mono">{data.id}</span>
          <span>
            {data.kind} by {shop.lexicon.person(data.by)}, <span title={when.exact}>{when.short}</span>
          </span>
          <span className="flex-1" />
          <button type="button" className="btn" onClick={() => void keep()}>
            Keep as a sample
          </button>
        </p>
        <p className="mt-1">
          <span className="soft">came in </span>
          {Object.entries(data.incoming).map(([key, value]) => (
            <span key={key} className="mr-3 inline-block">
              <span className="soft">{shop.lexicon.field(data.type, key)?.label ?? key}</span>{' '}
              {say(data.type, key, value)}
            </span>
          ))}
        </p>
        {data.draft.trace !== null && (
          <p className="mt-1">
            {keys.length === 0 ? (
              <span className="text-teal">Every field comes out as it did.</span>
            ) : (
              keys.map((key) => (
                <span key={key} className="mr-4 inline-block">
                  <b>{shop.lexicon.field(data.type, key)?.label ?? key}</b> {say(data.type, key, data.after[key])} →{' '}
                  <b className="text-plum">{say(data.type, key, data.draft.values[key])}</b>
                </span>
              ))
            )}
          </p>
        )}
        <ProblemNote problem={problem} />
      </div>
      <SideBySide
        left={{
          title: `Under edition ${shop.draft.edition}, as it came out`,
          name: 'the edition',
          trace: data.edition?.trace ?? null,
          why: data.edition?.why ?? 'no edition is in force',
        }}
        right={{ title: 'Under the draft', name: 'the draft', trace: data.draft.trace, why: data.draft.why }}
      />
    </div>
  );
}

/** What the draft would have made of past events. */
export default function Impact() {
  const { number } = useParams();
  const { draft } = useWorkshop();
  const work = useWork('impact');
  const [days, setDays] = useState(0);
  const { data: extent } = useQuery({ queryKey: ['past'], queryFn: api.past, refetchInterval: 10_000 });
  const result = (work.work?.result ?? {}) as ImpactResult;
  return (
    <main className="flex h-full flex-col">
      <div className="head">
        <h1>Impact</h1>
        <span className="soft">
          {extent && extent.count > 0 && extent.since
            ? `${extent.count.toLocaleString('en')} past events, the first ${moment(extent.since, draft.timezone).short}`
            : ''}
        </span>
        <span className="flex-1" />
        {extent && extent.count > 0 && (
          <a className="link text-[13px] leading-6" href="/api/past.jsonl">
            Events as JSON lines
          </a>
        )}
      </div>
      {number === undefined ? (
        <div className="flex-1 overflow-auto bg-sheet px-5 py-4" role="region" aria-label="Impact" tabIndex={0}>
          {extent?.count === 0 ? (
            <p>Nothing has happened on this desk yet. Each save is kept from now on, and can be replayed here.</p>
          ) : (
            <>
              <WorkHead work={work} what="Replay past events through the draft" days={days === 0 ? undefined : days}>
                <p className="max-w-[76ch]">
                  Each event is replayed with what it read at the time, and nothing is written. An event for which the
                  draft asks something else is counted apart; it is never guessed.
                </p>
                <label className="mt-2 flex items-center gap-2">
                  <span className="soft">events of</span>
                  <select className="field" value={days} onChange={(e) => setDays(Number(e.target.value))}>
                    {BACK.map(([n, words]) => (
                      <option key={n} value={n}>
                        {words}
                      </option>
                    ))}
                  </select>
                </label>
              </WorkHead>
              <Summary result={result} />
            </>
          )}
        </div>
      ) : (
        <div className="min-h-0 flex-1 bg-sheet">
          <One key={number} number={Number(number)} />
        </div>
      )}
    </main>
  );
}
