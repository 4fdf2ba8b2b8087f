import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { api, Problem, type RuleFit, type RuleTrial } from '../../api/client';
import { fieldsOf, type RuleTree, typesOf } from '../../api/trees';
import type { Lexicon } from '../../app/lexicon';
import { ProblemNote } from '../../parts/ProblemNote';
import { TraceView } from '../../parts/TraceView';

/** What the live desk says to the rule as it stands on the screen. */
export function useFit(tree: RuleTree): RuleFit | undefined {
  const text = JSON.stringify({ ...tree, rows: [], checks: [], changes: [] });
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), 250);
    return () => clearTimeout(timer);
  }, [text]);
  const { data } = useQuery({
    queryKey: ['fit', tree.key, settled],
    queryFn: () => api.fitRule(tree.key, tree),
    placeholderData: (old) => old,
    retry: false,
    staleTime: 30_000,
  });
  return data;
}

export function FitsNow({ fit, lexicon }: { fit: RuleFit | undefined; lexicon: Lexicon }) {
  if (!fit) return null;
  const ticket = (type: string) => lexicon.type(type)?.kind === 'ticket';
  return (
    <section className="border-b border-faint px-4 py-3" data-test="fits-now">
      <h2 className="mb-1">Which records fit now</h2>
      <p>
        <b data-test="fit-count">
          {fit.whole ? '' : 'At least '}
          {fit.count.toLocaleString('en')}
        </b>{' '}
        <span className="soft">
          {fit.count === 1 ? 'record meets' : 'records meet'} what it asks for
          {fit.whole ? '' : `, among the first ${fit.looked.toLocaleString('en')} looked at`}
          {fit.reads_all && fit.looked > 500 && '; every record had to be read'}
        </span>
      </p>
      {fit.records.length > 0 && (
        <p className="mt-1 flex flex-wrap gap-x-4 text-[13px]">
          {fit.records.slice(0, 12).map((record) => (
            <Link
              key={record.id}
              to={ticket(record.type) ? `/tickets/${record.id}` : `/registers/${record.type}/${record.id}`}
              className="max-w-[260px] truncate leading-6 hover:underline"
              title={record.name}
            >
              <span className="mono soft">{record.id}</span> {record.name}
            </Link>
          ))}
          {fit.count > 12 && <span className="soft">…</span>}
        </p>
      )}
    </section>
  );
}

/** The rule on a live record, as if something had just happened to it; nothing is saved. */
export function TryOnRecord({ tree, lexicon }: { tree: RuleTree; lexicon: Lexicon }) {
  const types = typesOf(tree);
  const [type, setType] = useState(types[0] ?? '');
  const [record, setRecord] = useState<string | null>(null);
  const [changed, setChanged] = useState('');
  const [words, setWords] = useState('');
  const asked = words.trim().split(' ')[0] === record ? (record ?? '') : words.trim();
  const { data: found } = useQuery({
    queryKey: ['records to try', type, asked],
    queryFn: () => api.records(type, asked),
    placeholderData: (old) => old,
  });
  const [trial, setTrial] = useState<RuleTrial | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const fields = fieldsOf(lexicon.type(type)).filter((f) => !f.fixed && f.type !== 'derived' && f.type !== 'tally');
  const run = async (id: string | null, field: string) => {
    setTrial(null);
    setProblem(null);
    if (id === null) return;
    try {
      setTrial(await api.tryRule(tree.key, tree, id, field === '' ? null : field));
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  const says: Record<string, string> = {
    acted: 'The rule acts.',
    no_effect: 'A row fits, and nothing is left to change.',
    looked: 'The rule looks, and no row fits.',
    problem: 'The rule runs into a problem.',
    problem_before: 'The rule runs into a problem before a row fits.',
  };
  return (
    <section className="border-b border-faint px-4 py-3" data-test="try-on">
      <h2 className="mb-1">Try it on a live record</h2>
      <div className="flex flex-wrap items-center gap-2">
        {types.length > 1 && (
          <select
            className="field"
            aria-label="Type to try it on"
            value={type}
            onChange={(e) => {
              setType(e.target.value);
              setRecord(null);
              setWords('');
              setTrial(null);
            }}
          >
            {types.map((t) => (
              <option key={t} value={t}>
                {lexicon.type(t)?.title ?? t}
              </option>
            ))}
          </select>
        )}
        <input
          className="field w-[260px]"
          list="records-to-try"
          placeholder="Name or number"
          aria-label="Record to try it on"
          value={words}
          onChange={(e) => {
            setWords(e.target.value);
            const id = e.target.value.trim().split(' ')[0] ?? '';
            const known = found?.records.some((r) => r.id === id) ? id : null;
            setRecord(known);
            void run(known, changed);
          }}
        />
        <datalist id="records-to-try">
          {found?.records.map((r) => (
            <option key={r.id} value={`${r.id} ${r.name}`} />
          ))}
        </datalist>
        <span className="soft">as if</span>
        <select
          className="field"
          aria-label="What is to have happened"
          value={changed}
          onChange={(e) => {
            setChanged(e.target.value);
            void run(record, e.target.value);
          }}
        >
          <option value="">it had just been created</option>
          {fields.map((f) => (
            <option key={f.key} value={f.key}>
              {f.label.toLowerCase()} had just been filled in
            </option>
          ))}
        </select>
        {record && (
          <button type="button" className="link" onClick={() => void run(record, changed)}>
            again
          </button>
        )}
        <span className="soft">Nothing is saved.</span>
      </div>
      <ProblemNote problem={problem} />
      {trial && (
        <div className="mt-2 border-l-3 border-plum bg-plumbg/40 px-3 py-2" data-test="trial">
          <b>{trial.status === null ? 'The rule is not due.' : (says[trial.status] ?? trial.status)}</b>
          {trial.others.length > 0 && (
            <span className="soft">
              {' '}
              {trial.others.length} other {trial.others.length === 1 ? 'record follows' : 'records follow'}:{' '}
              {trial.others
                .slice(0, 5)
                .map((o) => `${o.record}${o.created ? ' (new)' : ''}`)
                .join(', ')}
            </span>
          )}
          <div className="mt-1">
            <TraceView trace={trial.trace} lexicon={lexicon.with(trial.names)} only={tree.key} />
          </div>
        </div>
      )}
    </section>
  );
}
