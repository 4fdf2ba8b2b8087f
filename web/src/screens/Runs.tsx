import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { Fragment, useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { api, type LoggedRun, Problem, type RuleCount } from '../api/client';
import { type DeskView, moment, useDesk } from '../app/desk';
import type { Lexicon } from '../app/lexicon';
import { useMaybeWorkshop } from '../app/workshop';
import { ProblemNote } from '../parts/ProblemNote';
import { TraceView } from '../parts/TraceView';

const KINDS: Record<string, string> = {
  created: 'created',
  changed: 'changed',
  deleted: 'deleted',
  received: 'message',
  answered: 'call came back',
  at: 'by the clock',
  by_hand: 'by hand',
};

const OF = ['', 'acted', 'problems'] as const;

const ONLY: Record<(typeof OF)[number], string> = { '': 'All', acted: 'Rules acted', problems: 'Problems' };

/** Days as thin columns: what a rule did, and on top of it what went wrong. */
function Days({ of, days, most }: { of: RuleCount; days: string[]; most: number }) {
  return (
    <span className="flex h-[18px] items-end gap-px" aria-hidden="true">
      {days.map((day) => {
        const on = of.days.find((d) => d.day === day);
        const height = (n: number) => `${Math.max(n > 0 ? 2 : 0, (n / most) * 18)}px`;
        return (
          <span
            key={day}
            className="flex w-[5px] flex-col justify-end border-b border-line"
            title={`${day}: acted ${on?.acted ?? 0}, failed ${on?.failed ?? 0}`}
          >
            <span className="bg-red" style={{ height: height(on?.failed ?? 0) }} />
            <span className="bg-plum/60" style={{ height: height(on?.acted ?? 0) }} />
          </span>
        );
      })}
    </span>
  );
}

function ByRule({ view, rule, onRule }: { view: DeskView; rule: string; onRule: (rule: string) => void }) {
  const { data } = useQuery({ queryKey: ['runs by rule'], queryFn: () => api.runsByRule(14), staleTime: 10_000 });
  const days = Array.from({ length: 14 }, (_, i) =>
    new Date(Date.now() - (13 - i) * 86_400_000).toISOString().slice(0, 10),
  );
  const order = new Map(view.desk.rules.map((r) => [r.key, r.number]));
  const counts = new Map(data?.rules.map((r) => [r.rule, r]));
  const most = Math.max(1, ...(data?.rules ?? []).flatMap((r) => r.days.map((d) => d.acted + d.failed)));
  const gone = [...counts.keys()].filter((key) => !order.has(key));
  return (
    <aside
      className="overflow-auto border-r border-line bg-paper px-3 py-3"
      aria-label="Rules, last 14 days"
      tabIndex={0}
    >
      <h2 className="mb-2">Rules, last 14 days</h2>
      <table className="w-full table-fixed text-[13px]" data-test="by-rule">
        <thead>
          <tr className="soft text-[12.5px]">
            <th className="text-left font-normal">rule</th>
            <th className="w-[92px]" aria-label="By day" />
            <th className="w-11 text-right font-normal">acted</th>
            <th className="w-11 text-right font-normal">failed</th>
          </tr>
        </thead>
        <tbody>
          {[...view.desk.rules.map((r) => r.key), ...gone].map((key) => {
            const of = counts.get(key);
            return (
              <tr
                key={key}
                className={`border-b border-faint ${rule === key ? 'bg-tealbg' : ''} ${of ? '' : 'text-soft'}`}
              >
                <td className="py-0.5">
                  <button
                    type="button"
                    className="block w-full truncate text-left hover:underline"
                    title={view.rule(key)}
                    onClick={() => onRule(rule === key ? '' : key)}
                  >
                    {view.rule(key)}
                  </button>
                </td>
                <td>{of && <Days of={of} days={days} most={most} />}</td>
                <td className="text-right">{of?.acted ?? '–'}</td>
                <td className={`text-right ${of && of.failed > 0 ? 'font-semibold text-red' : ''}`}>
                  {of && of.failed > 0 ? `✕ ${of.failed}` : ''}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </aside>
  );
}

function Account({ run, view }: { run: number; view: DeskView }) {
  const { data } = useQuery({ queryKey: ['run', run], queryFn: () => api.run(run) });
  const shop = useMaybeWorkshop();
  const navigate = useNavigate();
  const [problem, setProblem] = useState<Problem | null>(null);
  if (!data) return null;
  const type = 'event' in data.trace ? data.trace.event.type : '';
  const ticket = view.types.find((t) => t.key === type)?.kind === 'ticket';
  const keep = async () => {
    try {
      const answer = await api.keepAsSample(data.record, run);
      shop?.saved('samples', answer);
      shop?.takeInHand(answer.part.key);
      navigate(`/samples/${answer.part.key}`);
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  const lexicon = view.lexicon.with(data.names);
  return (
    <div className="bg-paper px-4 py-3">
      {'event' in data.trace ? (
        <>
          {shop && ticket && (
            <button type="button" className="link float-right" onClick={() => void keep()}>
              Keep as sample
            </button>
          )}
          <ProblemNote problem={problem} />
          <TraceView trace={data.trace} lexicon={lexicon} ruleTitle={view.rule} />
        </>
      ) : (
        <p className="soft">
          It was one of very many that followed in one save; what came of it is kept, and not how it came about.
        </p>
      )}
    </div>
  );
}

function Row({
  run,
  view,
  lexicon,
  open,
  onOpen,
}: {
  run: LoggedRun;
  view: DeskView;
  lexicon: Lexicon;
  open: boolean;
  onOpen: () => void;
}) {
  const when = moment(run.at, view.desk.timezone);
  const acted = Object.entries(run.rules).filter(([, status]) => status === 'acted');
  const type = view.lexicon.type(run.type);
  const name = lexicon.guess(run.record);
  return (
    <Fragment>
      <tr className={open ? 'bg-tealbg' : ''} data-test="run" data-kind={run.kind}>
        <td className="soft whitespace-nowrap" title={when.exact}>
          {when.short}
        </td>
        <td className="whitespace-nowrap">
          {type?.kind === 'ticket' ? (
            <Link to={`/tickets/${run.record}`} className="mono hover:underline" title={name}>
              {run.record}
            </Link>
          ) : (
            <Link to={`/registers/${run.type}/${run.record}`} className="hover:underline" title={run.record}>
              {name}
            </Link>
          )}
        </td>
        <td className="whitespace-nowrap">
          {KINDS[run.kind] ?? run.kind}
          {run.by && <span className="soft"> {lexicon.person(run.by)}</span>}
        </td>
        <td>
          <button type="button" className="w-full text-left hover:underline" aria-expanded={open} onClick={onOpen}>
            {acted.length === 0 && run.problems.length === 0 && <span className="soft">no rule acted</span>}
            {acted.map(([rule]) => (
              <span key={rule} className="mr-2 text-plum" title={view.rule(rule)}>
                ◆ {view.rule(rule)}
              </span>
            ))}
            {run.problems.map((p) => (
              <span key={p.message} className="mr-2 block text-red">
                ✕ {p.rule && `${view.rule(p.rule)}: `}
                {p.message}
              </span>
            ))}
          </button>
        </td>
        <td className="soft text-right whitespace-nowrap">{run.ms} ms</td>
      </tr>
      {open && (
        <tr>
          <td colSpan={5} className="p-0!">
            <Account run={run.run} view={view} />
          </td>
        </tr>
      )}
    </Fragment>
  );
}

/** The log of live events: what happened, which rules acted, what went wrong, and how often. */
export default function Runs() {
  const view = useDesk();
  const [search, setSearch] = useSearchParams();
  const [open, setOpen] = useState<number | null>(null);
  const of = {
    rule: search.get('rule') ?? '',
    only: search.get('only') ?? '',
    kind: search.get('kind') ?? '',
    type: search.get('type') ?? '',
    record: search.get('record') ?? '',
  };
  const text = new URLSearchParams(Object.entries(of).filter(([, value]) => value !== '')).toString();
  const query = useInfiniteQuery({
    queryKey: ['runs', text],
    queryFn: ({ pageParam }) => api.runs(`${text}${pageParam ? `&before=${pageParam}` : ''}`),
    initialPageParam: null as number | null,
    getNextPageParam: (last) => last.next,
    refetchInterval: 5000,
  });
  if (!view) return null;
  const put = (more: Partial<typeof of>) => {
    const next = new URLSearchParams(Object.entries({ ...of, ...more }).filter(([, value]) => value !== ''));
    setSearch(next, { replace: true });
  };
  const pages = query.data?.pages ?? [];
  const runs = pages.flatMap((p) => p.runs);
  const lexicon = view.lexicon.with(Object.assign({}, ...pages.map((p) => p.names)));
  return (
    <main className="grid h-full grid-cols-[330px_minmax(0,1fr)]">
      <ByRule view={view} rule={of.rule} onRule={(rule) => put({ rule })} />
      <div className="flex min-h-0 flex-col">
        <div className="head flex-wrap">
          <h1>Runs</h1>
          <div className="flex shrink-0" role="radiogroup" aria-label="Which runs">
            {OF.map((key) => (
              <button
                key={key}
                type="button"
                role="radio"
                aria-checked={of.only === key}
                className={`whitespace-nowrap border border-l-0 border-line px-2.5 py-1 text-[13px] first:border-l ${of.only === key ? 'bg-ink font-semibold text-paper' : 'bg-sheet'}`}
                onClick={() => put({ only: key })}
              >
                {ONLY[key]}
              </button>
            ))}
          </div>
          <select
            className="field"
            aria-label="What happened"
            value={of.kind}
            onChange={(e) => put({ kind: e.target.value })}
          >
            <option value="">whatever happened</option>
            {Object.entries(KINDS).map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>
          <select className="field" aria-label="Type" value={of.type} onChange={(e) => put({ type: e.target.value })}>
            <option value="">every type</option>
            {view.types.map((t) => (
              <option key={t.key} value={t.key}>
                {t.title}
              </option>
            ))}
          </select>
          <input
            data-filter
            className="field w-[110px]"
            placeholder="Number  /"
            aria-label="Record"
            defaultValue={of.record}
            onKeyDown={(e) => e.key === 'Enter' && put({ record: e.currentTarget.value.trim() })}
          />
          {of.rule && (
            <button
              type="button"
              className="chip flex max-w-[420px] gap-2"
              onClick={() => put({ rule: '' })}
              title={`${view.rule(of.rule)}: all rules again`}
            >
              <span className="truncate">{view.rule(of.rule)}</span>×
            </button>
          )}
        </div>
        <div className="min-h-0 flex-1 overflow-auto bg-sheet" tabIndex={0} role="region" aria-label="Runs">
          <table className="ledger">
            <thead>
              <tr>
                <th className="w-[92px]">When</th>
                <th className="w-[110px]">Record</th>
                <th className="w-[170px]">What happened</th>
                <th>Rules that acted, and problems</th>
                <th className="w-[70px] text-right">Took</th>
              </tr>
            </thead>
            <tbody>
              {runs.map((run) => (
                <Row
                  key={run.run}
                  run={run}
                  view={view}
                  lexicon={lexicon}
                  open={open === run.run}
                  onOpen={() => setOpen(open === run.run ? null : run.run)}
                />
              ))}
            </tbody>
          </table>
          {query.isSuccess && runs.length === 0 && <p className="soft px-4 py-6">Nothing of this kind has happened.</p>}
          {query.hasNextPage && (
            <p className="px-4 py-3">
              <button type="button" className="btn" onClick={() => void query.fetchNextPage()}>
                Earlier ones
              </button>
            </p>
          )}
        </div>
      </div>
    </main>
  );
}
