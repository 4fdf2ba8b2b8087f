import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate, useParams } from 'react-router';
import { api, Problem } from '../../api/client';
import { useWorkshop } from '../../app/workshop';
import { ProblemNote } from '../../parts/ProblemNote';
import { SideBySide } from './SideBySide';

/** A sample beside itself under the edition in force, or beside another sample, step by step. */
export default function SamplesBeside() {
  const { key = '', other = 'edition' } = useParams();
  const shop = useWorkshop();
  const navigate = useNavigate();
  const mine = useQuery({ queryKey: ['beside', key, shop.stamp], queryFn: () => api.replay(null, key) });
  const theirs = useQuery({
    queryKey: ['beside', key, other, shop.stamp],
    queryFn: () => (other === 'edition' ? api.replayUnderEdition(key) : api.replay(null, other)),
  });
  const step = shop.step;
  const sample = shop.samples.find((s) => s.part.key === key);
  const failed = mine.error ?? theirs.error;
  const trace = (query: typeof mine) => query.data?.traced?.steps[step]?.trace ?? query.data?.traced?.steps[0]?.trace;
  return (
    <main className="flex h-full flex-col bg-sheet" data-test="beside">
      <div className="head">
        <Link className="link leading-6" to={`/samples/${key}`}>
          ◂ {sample?.tree.title ?? key}
        </Link>
        <span className="soft">beside</span>
        <select
          className="field max-w-[420px]"
          aria-label="Beside"
          value={other}
          onChange={(e) => navigate(`/samples/${key}/beside/${e.target.value}`, { replace: true })}
        >
          <option value="edition">itself under edition {shop.draft.edition}</option>
          {shop.samples
            .filter((s) => s.part.key !== key)
            .map((s) => (
              <option key={s.part.key} value={s.part.key}>
                {s.tree.title}
              </option>
            ))}
        </select>
      </div>
      {failed && <ProblemNote problem={Problem.of(failed)} />}
      {mine.data && theirs.data && (
        <SideBySide
          left={
            other === 'edition'
              ? {
                  title: `Under edition ${shop.draft.edition}`,
                  name: 'the edition',
                  trace: trace(theirs),
                  why: theirs.data.samples[0]?.broken[0] ?? null,
                }
              : { title: sample?.tree.title ?? key, name: 'the first', trace: trace(mine), why: null }
          }
          right={
            other === 'edition'
              ? {
                  title: 'Under the draft',
                  name: 'the draft',
                  trace: trace(mine),
                  why: mine.data.samples[0]?.broken[0] ?? null,
                }
              : {
                  title: shop.samples.find((s) => s.part.key === other)?.tree.title ?? other,
                  name: 'the other',
                  trace: trace(theirs),
                  why: null,
                }
          }
        />
      )}
    </main>
  );
}
