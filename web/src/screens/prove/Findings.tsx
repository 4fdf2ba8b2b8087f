import { useQueryClient } from '@tanstack/react-query';
import { lazy, Suspense, useState } from 'react';
import { Link, NavLink, useParams, useSearchParams } from 'react-router';
import { api, type Finding, Problem } from '../../api/client';
import { moment } from '../../app/desk';
import { useWorkshop } from '../../app/workshop';
import { ProblemNote } from '../../parts/ProblemNote';
import { useFindings } from './useFindings';

const Unnoticed = lazy(() => import('./Unnoticed'));
const Missing = lazy(() => import('./Missing'));
const Uses = lazy(() => import('./Uses'));

const TABS = [
  ['', 'What can be said'],
  ['notice', 'What nobody notices'],
  ['missing', 'Missing samples'],
  ['uses', 'Who reads and writes'],
] as const;

const GROUPS = [
  ['blocking', '✕', 'In the way of an edition', 'text-red'],
  ['attention', '!', 'Probably not what is meant', 'text-ochre'],
  ['note', '·', 'Good to know', 'text-soft'],
] as const;

/** Where a finding is to be looked at. */
function place(finding: Finding): string {
  switch (finding.kind) {
    case 'rules':
      return `/rulebook/${finding.key}`;
    case 'types':
      return `/fields/${finding.key}`;
    default:
      return `/${finding.kind}/${finding.key}`;
  }
}

function One({ finding }: { finding: Finding }) {
  const { stamp, draft, lexicon } = useWorkshop();
  const client = useQueryClient();
  const [accepting, setAccepting] = useState(false);
  const [reason, setReason] = useState('');
  const [problem, setProblem] = useState<Problem | null>(null);
  const act = async (doIt: () => Promise<unknown>) => {
    try {
      await doIt();
      setAccepting(false);
      setProblem(null);
      await client.invalidateQueries({ queryKey: ['findings', stamp] });
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  const sign = GROUPS.find(([weight]) => weight === finding.weight);
  return (
    <li className="grid grid-cols-[20px_minmax(0,1fr)_auto] gap-2 border-b border-faint py-2.5" data-test="finding">
      <span className={`text-center font-bold ${sign?.[3]}`} aria-hidden="true">
        {sign?.[1]}
      </span>
      <div className="min-w-0">
        <p>
          <b>{finding.says}</b>
        </p>
        <p className="soft">
          {finding.why} {finding.proposal}
        </p>
        {finding.accepted && (
          <p className="mt-0.5">
            Accepted by {lexicon.person(finding.accepted.by)}, {moment(finding.accepted.at, draft.timezone).short}:{' '}
            {finding.accepted.reason}
          </p>
        )}
        {accepting && (
          <form
            className="mt-2 flex items-center gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              void act(() => api.acceptFinding(finding.id, reason));
            }}
          >
            <input
              className="field flex-1"
              aria-label="Why it is meant so"
              placeholder="why it is meant so"
              value={reason}
              // biome-ignore lint/a11y/noAutofocus: one has just asked for it
              autoFocus
              onChange={(e) => setReason(e.target.value)}
            />
            <button type="submit" className="btn btn-main" disabled={reason.trim() === ''}>
              Accept it
            </button>
            <button type="button" className="btn" onClick={() => setAccepting(false)}>
              Not now
            </button>
          </form>
        )}
        <ProblemNote problem={problem} />
      </div>
      <div className="flex flex-col items-end gap-1 text-[13px]">
        <Link className="link leading-6" to={place(finding)}>
          Look at it
        </Link>
        {finding.accepted ? (
          <button type="button" className="link" onClick={() => void act(() => api.reopenFinding(finding.id))}>
            Open it again
          </button>
        ) : (
          !accepting && (
            <button type="button" className="link" onClick={() => setAccepting(true)}>
              Accept …
            </button>
          )
        )}
      </div>
    </li>
  );
}

function Said() {
  const query = useFindings();
  const [search, setSearch] = useSearchParams();
  const filter = search.get('q') ?? '';
  const { rules } = useWorkshop();
  const title = (key: string) => rules.find(({ tree }) => tree.key === key)?.tree.title ?? '';
  const all = query.data?.findings ?? [];
  const fits = (f: Finding) =>
    filter === '' || `${f.says} ${f.key} ${f.check} ${title(f.key)}`.toLowerCase().includes(filter.toLowerCase());
  const shown = all.filter(fits);
  const accepted = shown.filter((f) => f.accepted);
  return (
    <>
      {query.isError && <ProblemNote problem={Problem.of(query.error)} />}
      <div className="mb-2 flex items-center gap-3">
        <input
          className="field w-[260px]"
          data-filter
          type="search"
          aria-label="Filter"
          placeholder="filter …"
          value={filter}
          onChange={(e) => setSearch(e.target.value === '' ? {} : { q: e.target.value }, { replace: true })}
        />
        <span className="soft" role="status">
          {query.data &&
            `${all.filter((f) => !f.accepted).length} open, ${all.filter((f) => f.accepted).length} accepted`}
        </span>
      </div>
      {query.data && all.length === 0 && <p>Nothing stands out in this rulebook.</p>}
      {GROUPS.map(([weight, , title]) => {
        const list = shown.filter((f) => f.weight === weight && !f.accepted);
        return (
          list.length > 0 && (
            <section key={weight} className="mb-4" data-test={`findings-${weight}`}>
              <h2 className="border-b border-line pb-1">
                {title} <span className="soft font-normal">{list.length}</span>
              </h2>
              <ul>
                {list.map((finding) => (
                  <One key={finding.id} finding={finding} />
                ))}
              </ul>
            </section>
          )
        );
      })}
      {accepted.length > 0 && (
        <section data-test="findings-accepted">
          <h2 className="border-b border-line pb-1">
            Accepted <span className="soft font-normal">{accepted.length}</span>
          </h2>
          <ul>
            {accepted.map((finding) => (
              <One key={finding.id} finding={finding} />
            ))}
          </ul>
        </section>
      )}
    </>
  );
}

/** What can be said of the draft: without running it, by changing it in small ways, and by telling stories about it. */
export default function Findings() {
  const { tab = '' } = useParams();
  return (
    <main className="flex h-full flex-col">
      <div className="head">
        <h1>Findings</h1>
        <nav className="flex gap-1" aria-label="Kinds of findings">
          {TABS.map(([key, title]) => (
            <NavLink
              key={key}
              end
              to={key === '' ? '/findings' : `/findings/${key}`}
              className={({ isActive }) =>
                `border-b-2 px-2 leading-7 ${isActive ? 'border-ink font-semibold' : 'soft border-transparent'}`
              }
            >
              {title}
            </NavLink>
          ))}
        </nav>
      </div>
      <div className="flex-1 overflow-auto bg-sheet px-5 py-4" role="region" aria-label="Findings" tabIndex={0}>
        <Suspense fallback={null}>
          {tab === 'notice' ? <Unnoticed /> : tab === 'missing' ? <Missing /> : tab === 'uses' ? <Uses /> : <Said />}
        </Suspense>
      </div>
    </main>
  );
}
