import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { lazy, Suspense } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { api, Problem } from '../api/client';
import type { FieldTree } from '../api/trees';
import { useDesk } from '../app/desk';
import { ProblemNote } from '../parts/ProblemNote';
import { PercentBar } from '../parts/ValueEditor';

const Weeks = lazy(() => import('../parts/WeeksChart'));

const MEASURES = ['number', 'percent', 'tally'];

/** A count as a bar on a common scale; the figure is always written. */
function Bar({ value, most, label }: { value: number; most: number; label: string }) {
  return (
    <span className="flex items-center gap-2" title={label}>
      <span
        className="block h-2.5 bg-teal"
        style={{ width: `${Math.max(value > 0 ? 2 : 0, (value / Math.max(1, most)) * 180)}px` }}
      />
      <span className="tabular-nums">{value}</span>
    </span>
  );
}

/** What people look at: tickets by score, progress by state, who has how much, and what came in. */
export default function Reports() {
  const view = useDesk();
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const tickets = view?.types.filter((t) => t.kind === 'ticket') ?? [];
  const { type: key = tickets[0]?.key ?? '' } = useParams();
  const type = tickets.find((t) => t.key === key);
  const query = useQuery({
    queryKey: ['reports', key, search.toString()],
    queryFn: () => api.reports(key, search.toString()),
    enabled: type !== undefined,
    placeholderData: keepPreviousData,
  });
  if (!view) return <main className="soft p-10">Reading the desk …</main>;
  const lexicon = view.lexicon;
  const set = (name: string, value: string) => {
    const next = new URLSearchParams(search);
    next.set(name, value);
    setSearch(next, { replace: true });
  };
  const report = query.data;
  const fields = (type?.fields ?? []).filter((f) => f.active !== false);
  const measures = fields.filter((f) => MEASURES.includes(f.type));
  const choices = fields.filter((f) => f.type === 'choice');
  const by = lexicon.field(key, report?.by ?? '');
  const ranked = lexicon.field(key, report?.rank ?? '');
  const percent = lexicon.field(key, report?.percent ?? '');
  const options = [...(by?.options ?? []).map((o) => ({ key: o.key, label: o.label })), { key: '', label: 'none' }];
  const list = (lines: unknown[]) => `/tickets?type=${key}&lines=${encodeURIComponent(JSON.stringify(lines))}`;
  const csv = (name: string) => (
    <a className="link ml-3 text-[13px]" href={`/api/reports/${key}/${name}.csv?${search}`}>
      CSV
    </a>
  );
  const pick = (name: string, label: string, value: string | null | undefined, among: FieldTree[]) =>
    among.length > 1 && (
      <label className="flex items-center gap-2">
        <span className="soft">{label}</span>
        <select className="field" value={value ?? ''} onChange={(e) => set(name, e.target.value)}>
          {among.map((f) => (
            <option key={f.key} value={f.key}>
              {f.label}
            </option>
          ))}
        </select>
      </label>
    );
  const mostInState = Math.max(1, ...(report?.states.map((s) => s.tickets) ?? []));
  return (
    <main className="flex h-full flex-col">
      <div className="head">
        <h1>Reports</h1>
        <select
          className="field"
          aria-label="Type of ticket"
          value={key}
          onChange={(e) => navigate(`/reports/${e.target.value}`)}
        >
          {tickets.map((t) => (
            <option key={t.key} value={t.key}>
              {t.title}
            </option>
          ))}
        </select>
        {pick('by', 'by', report?.by, choices)}
        {pick('rank', 'ranked by', report?.rank, measures)}
        <label className="flex items-center gap-2">
          <span className="soft">weeks</span>
          <select className="field" value={String(report?.weeks ?? 12)} onChange={(e) => set('weeks', e.target.value)}>
            {[4, 12, 26, 52].map((n) => (
              <option key={n}>{n}</option>
            ))}
          </select>
        </label>
      </div>
      {query.isError && (
        <div className="px-4">
          <ProblemNote problem={Problem.of(query.error)} />
        </div>
      )}
      {!type && <p className="p-6">There is no ticket type “{key}”.</p>}
      {report && type && (
        <div
          className="grid flex-1 grid-cols-2 content-start gap-x-8 gap-y-6 overflow-auto bg-sheet px-5 py-4"
          data-test="reports"
        >
          <section>
            <h2>
              Where they stand{percent && `, with the average ${percent.label.toLowerCase()}`}
              {csv('states')}
            </h2>
            <table className="ledger mt-1" data-test="report-states">
              <tbody>
                {report.states.map((row) => (
                  <tr key={row.state}>
                    <td className={row.open ? 'font-semibold' : 'soft'}>{row.label}</td>
                    <td>
                      <Link to={list([{ field: 'state', is: 'any', of: [row.state] }])} className="hover:underline">
                        <Bar
                          value={row.tickets}
                          most={mostInState}
                          label={`${row.tickets} ${row.label.toLowerCase()}`}
                        />
                      </Link>
                    </td>
                    <td>
                      {row.average !== null && (
                        <PercentBar
                          value={Math.round(row.average)}
                          {...(percent?.bands ? { bands: percent.bands } : {})}
                        />
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
          <section>
            <h2>
              Came in by week{by && `, by ${by.label.toLowerCase()}`}
              {csv('incoming')}
            </h2>
            <div className="mt-1 h-[236px]">
              <Suspense fallback={null}>
                <Weeks rows={report.incoming} options={options} />
              </Suspense>
            </div>
          </section>
          <section>
            <h2>
              Open, by assignee{by && ` and ${by.label.toLowerCase()}`}
              {csv('load')}
            </h2>
            <table className="ledger mt-1" data-test="report-load">
              <thead>
                <tr>
                  <th>Assignee</th>
                  {options
                    .filter((o) => report.load.some((r) => r.of[o.key]))
                    .map((o) => (
                      <th key={o.key}>{o.label}</th>
                    ))}
                  <th>All</th>
                </tr>
              </thead>
              <tbody>
                {report.load.map((row) => {
                  const who = row.assignee
                    ? { field: 'assignee', is: 'any', of: [row.assignee] }
                    : { field: 'assignee', is: 'empty', of: [] };
                  const open = { field: 'state', is: 'any', of: ['open'] };
                  return (
                    <tr key={row.assignee ?? ''}>
                      <td>{row.assignee ? lexicon.person(row.assignee) : <span className="soft">nobody</span>}</td>
                      {options
                        .filter((o) => report.load.some((r) => r.of[o.key]))
                        .map((o) => (
                          <td key={o.key} className="tabular-nums">
                            {row.of[o.key] ? (
                              <Link
                                className="hover:underline"
                                to={list([
                                  open,
                                  who,
                                  o.key && by
                                    ? { field: by.key, is: 'any', of: [o.key] }
                                    : { field: by?.key ?? '', is: 'empty', of: [] },
                                ])}
                              >
                                {row.of[o.key]}
                              </Link>
                            ) : (
                              <span className="soft">·</span>
                            )}
                          </td>
                        ))}
                      <td>
                        <Link className="hover:underline" to={list([open, who])}>
                          <Bar value={row.total} most={(report.load[0]?.total ?? 1) * 2} label={`${row.total} open`} />
                        </Link>
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          </section>
          <section>
            <h2>
              Open, the highest {ranked?.label.toLowerCase() ?? 'value'} first
              {csv('ranking')}
            </h2>
            <table className="ledger mt-1" data-test="report-ranking">
              <tbody>
                {report.ranking.slice(0, 25).map((row, i) => (
                  <tr key={row.id}>
                    <td className="soft tabular-nums">{i + 1}</td>
                    <td className="mono">{row.id}</td>
                    <td>
                      <Link to={`/tickets/${row.id}`} className="hover:underline">
                        {row.name}
                      </Link>
                      <span className="soft block text-[12.5px]">
                        {[
                          lexicon.say(row.state, lexicon.field(key, 'state')),
                          row.assignee && lexicon.person(row.assignee),
                        ]
                          .filter(Boolean)
                          .join(' · ')}
                      </span>
                    </td>
                    <td>
                      {ranked?.type === 'percent' ? (
                        <PercentBar value={row.value} {...(ranked.bands ? { bands: ranked.bands } : {})} />
                      ) : (
                        <Bar value={row.value} most={(report.ranking[0]?.value ?? 1) * 1.5} label={String(row.value)} />
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            {report.ranking.length === 0 && <p className="soft mt-2">No open ticket has a value to rank by.</p>}
          </section>
        </div>
      )}
    </main>
  );
}
