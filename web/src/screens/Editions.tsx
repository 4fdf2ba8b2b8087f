import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api, Problem } from '../api/client';
import type { RuleTree } from '../api/trees';
import { moment } from '../app/desk';
import { WHAT } from '../app/PublishDialog';
import { useMay } from '../app/session';
import { useWorkshop } from '../app/workshop';
import { ProblemNote } from '../parts/ProblemNote';
import { TreeDiff } from '../parts/TreeDiff';
import { ImpactCounts, type ImpactResult } from './prove/Impact';
import { useWork } from './prove/useWork';
import { RuleDiff } from './release/RuleGrid';

/** What past events would have come to under an earlier edition; asked for when it is opened. */
function ImpactOfBack({ number }: { number: number }) {
  const { lexicon, stamp } = useWorkshop();
  const of = useWork('way_back');
  const { work, running } = of;
  const fits = work !== null && work.edition === number && work.current;
  const asked = useRef<typeof stamp | null>(null);
  useEffect(() => {
    if (of.known && !fits && asked.current !== stamp) {
      asked.current = stamp;
      void of.askAbout(number);
    }
  });
  if (of.problem) return <ProblemNote problem={of.problem} />;
  if (!fits || running)
    return (
      <p className="mt-1 flex items-center gap-3">
        <progress
          className="h-2 w-56 accent-teal"
          max={Math.max(1, work?.chunks ?? 1)}
          value={fits ? work.done : 0}
          aria-label="Past events replayed"
        />
        <span className="soft" role="status">
          replaying past events through edition {number}
        </span>
        {!fits && asked.current === stamp && (
          <button type="button" className="soft" onClick={() => of.askAbout(number)}>
            ask again
          </button>
        )}
      </p>
    );
  const result = work.result as ImpactResult;
  const fields = result.fields ?? [];
  return (
    <div data-test="back-impact">
      <ImpactCounts result={result} asker={`edition ${number}`} />
      {fields.length > 0 && (
        <p className="mb-2">
          {fields.slice(0, 6).map((f, i) => (
            <span key={`${f.type}.${f.field}`}>
              {i > 0 && ', '}
              {lexicon.field(f.type, f.field)?.label ?? f.field} <b className="tabular-nums">{f.count}</b>
            </span>
          ))}
          {fields.length > 6 && ` and ${fields.length - 6} more fields`}
        </p>
      )}
    </div>
  );
}

/** Back to an edition in one act: asked once, with its impact and what would go. */
function GoBack({ number, onOpen }: { number: number; onOpen: () => void }) {
  const { draft } = useWorkshop();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [open, setOpen] = useState(false);
  const [reason, setReason] = useState('');
  const [problem, setProblem] = useState<Problem | null>(null);
  const pending = draft.changes.length;
  const back = async () => {
    try {
      const edition = await api.goBack(number, reason, pending > 0);
      await client.invalidateQueries();
      setOpen(false);
      navigate(`/editions/${edition.number}`);
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  if (!open)
    return (
      <button
        type="button"
        className="btn"
        onClick={() => {
          setOpen(true);
          onOpen();
        }}
      >
        Go back to edition {number} …
      </button>
    );
  return (
    <form
      className="mb-3 border-l-3 border-ochre bg-paper px-3 py-2"
      data-test="go-back"
      onSubmit={(e) => {
        e.preventDefault();
        void back();
      }}
    >
      <p>
        The rules, tables, guards and mirrors of edition {number} become edition {(draft.edition ?? 0) + 1}, at once.
        Fields, people and samples stay as they are. What follows below, from edition {number} to the one in force, is
        undone.
      </p>
      <ImpactOfBack number={number} />
      {pending > 0 && (
        <p className="mt-1 text-red">
          {pending} {pending === 1 ? 'change' : 'changes'} of the draft that {pending === 1 ? 'is' : 'are'} not
          published would go.
        </p>
      )}
      <div className="mt-2 flex gap-2">
        <input
          className="field flex-1"
          name="reason"
          aria-label="Why"
          placeholder="why"
          value={reason}
          onChange={(e) => setReason(e.target.value)}
        />
        <button type="submit" className="btn btn-main" disabled={reason.trim() === ''}>
          Go back to edition {number}
        </button>
        <button type="button" className="btn" onClick={() => setOpen(false)}>
          Stay
        </button>
      </div>
      <ProblemNote problem={problem} />
    </form>
  );
}

/** Published editions: what each changed, what the samples came to, and the changes part by part. */
export default function Editions() {
  const { number } = useParams();
  const { draft, lexicon, stamp } = useWorkshop();
  const publishes = useMay('publisher');
  const administers = useMay('administrator');
  const client = useQueryClient();
  const gate = useQuery({ queryKey: ['gate', stamp], queryFn: api.gate, enabled: administers }).data;
  const list = useQuery({
    queryKey: ['editions'],
    queryFn: api.editions,
    staleTime: 0,
    // the worker replays a new edition in the background
    refetchInterval: (query) => (query.state.data?.editions.some((e) => e.replay === null) ? 1500 : false),
  });
  const at = number === undefined ? draft.edition : Number(number);
  const one = useQuery({ queryKey: ['edition', at], queryFn: () => api.edition(at ?? 0), enabled: at !== null });
  const [beside, setBeside] = useState('');
  // what is older stands on the left
  const [older, newer] = beside === 'draft' || Number(beside) > (at ?? 0) ? [String(at), beside] : [beside, String(at)];
  const compared = useQuery({
    queryKey: ['compare', older, newer, stamp],
    queryFn: () => api.compare(older, newer),
    enabled: at !== null && beside !== '',
    placeholderData: (old) => old,
  });
  const changes = beside === '' ? (one.data?.edition.changes ?? []) : (compared.data?.changes ?? []);
  const parts = beside === '' ? (one.data?.parts ?? []) : (compared.data?.parts ?? []);
  return (
    <main className="grid h-full grid-cols-[400px_minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)]">
      <div className="head col-span-2">
        <h1>Editions</h1>
        <span className="soft">
          The desk runs on edition {draft.edition}.{' '}
          {draft.changes.length > 0 &&
            `The draft has ${draft.changes.length} ${draft.changes.length === 1 ? 'change' : 'changes'} that ${draft.changes.length === 1 ? 'is' : 'are'} not published.`}
        </span>
        <span className="flex-1" />
        {administers && gate && (
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={gate.approval.needed}
              onChange={async (e) => {
                await api.askForApproval(e.target.checked);
                await client.invalidateQueries();
              }}
            />
            a second person approves each edition
          </label>
        )}
      </div>
      <div className="overflow-auto border-r border-line">
        {list.data?.editions.map((edition) => {
          const when = moment(edition.published_at, draft.timezone);
          return (
            <Link
              key={edition.number}
              to={`/editions/${edition.number}`}
              aria-current={edition.number === at}
              className={`block border-b border-faint border-l-3 px-4 py-3 ${edition.number === at ? 'border-l-teal bg-sheet' : 'border-l-transparent'}`}
              data-test={`edition-${edition.number}`}
            >
              <p className="flex items-baseline gap-2">
                <b className="text-[16px]">{edition.number}</b>
                {edition.number === draft.edition && <span className="font-semibold text-teal">in force</span>}
                {edition.overridden && <span className="text-red">published all the same</span>}
                <span className="soft ml-auto text-[13px]" title={when.exact}>
                  {lexicon.person(edition.published_by)}, {when.short}
                </span>
              </p>
              <p className="mt-0.5">{edition.note}</p>
              <p className="soft mt-0.5 text-[13px]">
                {edition.changes.length} {edition.changes.length === 1 ? 'part' : 'parts'} ·{' '}
                {edition.replay === null ? (
                  'samples are being replayed …'
                ) : (
                  <>
                    ✓ {edition.replay.agrees} agreed
                    {edition.replay.differs > 0 && (
                      <span className="text-red"> ≠ {edition.replay.differs} differed</span>
                    )}
                    {edition.replay.broken > 0 && <span className="text-red"> ✕ {edition.replay.broken} broken</span>}
                  </>
                )}
              </p>
            </Link>
          );
        })}
        {list.data?.editions.length === 0 && (
          <p className="p-4">Nothing is published yet. Publish the draft to give the desk its rules.</p>
        )}
      </div>
      <div className="overflow-auto bg-sheet p-4" role="region" aria-label="What changed" tabIndex={0}>
        {one.isError && <ProblemNote problem={Problem.of(one.error)} />}
        {one.data && (
          <>
            <div className="mb-2 flex flex-wrap items-center gap-3">
              <h2>Edition {one.data.edition.number}</h2>
              <label className="flex items-center gap-2">
                <span className="soft">beside</span>
                <select className="field" value={beside} onChange={(e) => setBeside(e.target.value)}>
                  <option value="">the one before it</option>
                  {list.data?.editions
                    .filter((e) => e.number !== one.data.edition.number)
                    .map((e) => (
                      <option key={e.number} value={String(e.number)}>
                        edition {e.number}
                      </option>
                    ))}
                  <option value="draft">the draft</option>
                </select>
              </label>
              <span className="flex-1" />
              <Link className="link leading-6" to={`/editions/${one.data.edition.number}/document`}>
                Read it as a document
              </Link>
            </div>
            <p className="soft mb-3" data-test="compared-with">
              {beside === ''
                ? `What it changed${one.data.edition.number > 1 ? ` from edition ${one.data.edition.number - 1}` : ''}.`
                : `From ${older === 'draft' ? 'the draft' : `edition ${older}`} to ${newer === 'draft' ? 'the draft' : `edition ${newer}`}.`}
            </p>
            {one.data.edition.overridden && (
              <div className="mb-3 border-l-3 border-red bg-redbg px-3 py-2" data-test="overridden">
                <b>It was published although something stood in the way:</b> {one.data.edition.overridden.reason}
                <ul className="mt-1">
                  {one.data.edition.overridden.samples.map((sample) => (
                    <li key={sample.key}>
                      {sample.verdict === 'broken' ? '✕' : '≠'} {sample.title}
                    </li>
                  ))}
                  {one.data.edition.overridden.findings.map((finding) => (
                    <li key={finding.id}>✕ {finding.says}</li>
                  ))}
                </ul>
              </div>
            )}
            {publishes && one.data.edition.number !== draft.edition && (
              <div className="mb-3">
                <GoBack
                  key={one.data.edition.number}
                  number={one.data.edition.number}
                  onOpen={() => setBeside(String(draft.edition ?? ''))}
                />
              </div>
            )}
            {beside === '' && one.data.edition.number === 1 && (
              <p className="mb-3">It is the first: everything in it was new.</p>
            )}
            {changes
              .filter((change) => change.what === 'moved')
              .map((change) => (
                <p key={change.key} className="mb-2">
                  <span className="soft">rule moved</span> {change.title}
                </p>
              ))}
            {parts.slice(0, beside === '' && one.data.edition.number === 1 ? 0 : 200).map((part) => (
              <section key={`${part.kind} ${part.key}`} className="mb-4 border border-line">
                <h3 className="border-b border-line bg-paper px-3 py-1">
                  <span className="soft">{WHAT[part.kind]} </span>
                  <b>{String((part.after ?? part.before)?.title ?? (part.after ?? part.before)?.name ?? part.key)}</b>{' '}
                  <span className="mono soft">{part.key}</span>
                </h3>
                {part.kind === 'rules' && part.before && part.after ? (
                  <RuleDiff
                    before={part.before as unknown as RuleTree}
                    after={part.after as unknown as RuleTree}
                    lexicon={lexicon}
                  />
                ) : (
                  <TreeDiff before={part.before} after={part.after} />
                )}
              </section>
            ))}
            {beside === '' && one.data.edition.number === 1 && (
              <ul>
                {one.data.edition.changes.map((change) => (
                  <li key={`${change.kind} ${change.key}`}>
                    <span className="soft inline-block w-16">{WHAT[change.kind]}</span> {change.title}
                  </li>
                ))}
              </ul>
            )}
          </>
        )}
      </div>
    </main>
  );
}
