import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { api, Problem } from '../api/client';
import { type DeskView, moment } from '../app/desk';
import { ProblemNote } from './ProblemNote';

const KINDS = { mirror: 'kept equal', derived: 'derived', tally: 'tally' } as const;

/** Live records whose values are not what follows from others: counted, shown, and then brought into line. */
export function OutOfLine({ view }: { view: DeskView }) {
  const client = useQueryClient();
  const [problem, setProblem] = useState<Problem | null>(null);
  const { data, refetch } = useQuery({
    queryKey: ['check'],
    queryFn: api.lastCheck,
    refetchInterval: (q) => (q.state.data?.check?.stage === 'running' ? 700 : false),
  });
  const check = data?.check ?? null;
  const isRunning = check?.stage === 'running';
  const out = check?.found.reduce((sum, f) => sum + f.out, 0) ?? 0;
  const act = async (work: () => Promise<unknown>) => {
    try {
      await work();
      setProblem(null);
    } catch (error) {
      setProblem(Problem.of(error));
    }
    await refetch();
    await client.invalidateQueries({ queryKey: ['register'] });
  };
  return (
    <section className="border-t border-line bg-sheet px-4 py-3" data-test="out-of-line">
      <div className="flex flex-wrap items-center gap-3">
        <h2>Out of line</h2>
        {check && !isRunning && (
          <span data-test="drift-sum">
            {check.mends
              ? `${out} brought into line`
              : out === 0
                ? 'Nothing is out of line'
                : `${out} ${out === 1 ? 'value is' : 'values are'} out of line`}
            <span className="soft">
              {' '}
              among {check.total.toLocaleString('en')} records, {moment(check.at, view.desk.timezone).short}
              {check.stage === 'stopped' && ', stopped before the end'}
            </span>
          </span>
        )}
        {!check && <span className="soft">Nobody has looked yet.</span>}
        {isRunning && (
          <>
            <progress value={check.done} max={Math.max(1, check.total)} /> {check.done} of {check.total}
            <button type="button" className="btn" onClick={() => void act(api.stopCheck)}>
              Stop
            </button>
          </>
        )}
        <span className="flex-1" />
        {!isRunning && (
          <button type="button" className="btn" onClick={() => void act(() => api.beginCheck(false))}>
            Count anew
          </button>
        )}
        {!isRunning && check && !check.mends && out > 0 && (
          <button type="button" className="btn btn-main" onClick={() => void act(() => api.beginCheck(true))}>
            Bring {out} {out === 1 ? 'value' : 'values'} into line
          </button>
        )}
      </div>
      <p className="soft mt-1 text-[13px]">
        Every mirror that is always equal, every derived field and every tally of the desk is worked out anew by the
        edition in force and held beside what is stored.
      </p>
      <ProblemNote problem={problem} />
      {check?.found.map((found) => {
        const field = view.lexicon.field(found.type, found.field);
        return (
          <details key={`${found.type} ${found.field}`} className="mt-2">
            <summary className="cursor-pointer">
              <b>{field?.label ?? found.field}</b> of {view.lexicon.type(found.type)?.title.toLowerCase()}{' '}
              <span className="soft">{KINDS[found.kind]}</span> {found.out}
            </summary>
            <table className="ledger mt-1">
              <thead>
                <tr>
                  <th>Record</th>
                  <th>Is</th>
                  <th>{check.mends ? 'Became' : 'Would become'}</th>
                </tr>
              </thead>
              <tbody>
                {found.examples.map((example) => (
                  <tr key={example.record}>
                    <td className="mono">
                      <Link
                        className="hover:underline"
                        to={
                          view.lexicon.type(found.type)?.kind === 'ticket'
                            ? `/tickets/${example.record}`
                            : `/registers/${found.type}/${example.record}`
                        }
                      >
                        {example.record}
                      </Link>
                    </td>
                    <td>{view.lexicon.say(example.is, field)}</td>
                    <td className="now">{view.lexicon.say(example.should, field)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            {found.out > found.examples.length && <p className="soft">and {found.out - found.examples.length} more</p>}
          </details>
        );
      })}
    </section>
  );
}
