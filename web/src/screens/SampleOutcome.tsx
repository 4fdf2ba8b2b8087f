import { useState } from 'react';
import { Link } from 'react-router';
import { api, type Difference, Problem } from '../api/client';
import { EXPECT_WORDS, type SampleTree } from '../api/trees';
import { usePerson } from '../app/session';
import { useWorkshop } from '../app/workshop';
import { accept } from './accept';

/** What the step in hand came to, against what was expected; one click accepts it. */
export function SampleOutcome() {
  const shop = useWorkshop();
  const person = usePerson();
  const { inHand, step, lexicon, traced } = shop;
  const [problem, setProblem] = useState<Problem | null>(null);
  if (!inHand?.result) return null;
  const result = inHand.result.steps[step];
  const differences = result?.differences ?? [];
  const expect = inHand.tree.steps[step]?.expect ?? {};
  const type = traced?.trace?.event.type ?? '';
  const differs = (record: string | null, field: string): Difference | undefined =>
    differences.find((d) => d.record === record && d.field === field);
  const takeIt = async () => {
    try {
      const tree: SampleTree = accept(inHand.tree, step, differences, person.key);
      shop.saved('samples', await api.savePart('samples', inHand.part.key, tree, inHand.part.version));
      setProblem(null);
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  return (
    <div data-test="outcome">
      <h2 className="mb-1">Came out</h2>
      {inHand.result.broken.map((why) => (
        <p key={why} className="text-red">
          ✕ {why}
        </p>
      ))}
      {Object.entries(expect)
        .filter(([id]) => !EXPECT_WORDS.includes(id))
        .flatMap(([id, fields]) =>
          Object.entries((fields ?? {}) as Record<string, unknown>).map(([key, expected]) => {
            const field = lexicon.field(type, key);
            const d = differs(id, key);
            const label = (field?.label ?? key).toLowerCase();
            return (
              <p key={`${id} ${key}`} className={d ? '-mx-2 bg-redbg px-2' : ''}>
                {label}{' '}
                {d ? (
                  <>
                    <b className="text-red">{lexicon.say(d.actual, field)}</b>, expected{' '}
                    <b>{lexicon.say(expected, field)}</b>
                  </>
                ) : (
                  <>
                    {lexicon.say(expected, field)} <span className="text-teal">✓</span>
                  </>
                )}
              </p>
            );
          }),
        )}
      {differences
        .filter((d) => d.record === null)
        .map((d) => (
          <p key={`${d.field} ${String(d.expected)}`} className="-mx-2 bg-redbg px-2">
            {d.field}: expected <b>{lexicon.say(d.expected)}</b>, came out{' '}
            <b className="text-red">{lexicon.say(d.actual)}</b>
          </p>
        ))}
      {problem && <p className="mt-1 text-red">{problem.message}</p>}
      <div className="mt-2 flex gap-2">
        {differences.length > 0 && (
          <button type="button" className="btn" onClick={() => void takeIt()}>
            Accept what came out
          </button>
        )}
        <Link to={`/samples/${inHand.part.key}`} className="btn leading-[26px]">
          Open sample
        </Link>
      </div>
    </div>
  );
}
