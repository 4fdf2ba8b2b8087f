import { useState } from 'react';
import { Link } from 'react-router';
import type { SampleTree } from '../../api/trees';
import { useWorkshop } from '../../app/workshop';
import { ProposedSample } from './ProposedSample';
import { useWork } from './useWork';
import { WorkHead } from './WorkHead';

interface Proposed {
  kind: 'rules' | 'guards' | 'mirrors';
  /** Key of the rule, the guard or the mirror. */
  rule: string;
  tree: SampleTree;
  covers: string[];
}

const FIGURES = {
  rules: 'rules act',
  rows: 'rows are hit',
  cells: 'check cells are seen both ways',
  table_rows: 'table rows are hit',
  guards: 'guards turn something down',
  mirrors: 'mirrors move their field',
} as const;

/** What the samples touch, and the stories that are missing. */
export default function Missing() {
  const work = useWork('propose');
  const { replay, rules: all, guards, mirrors, lexicon } = useWorkshop();
  /** Where it stands, and what it is called. */
  const part = ({ kind, rule: key }: Proposed): [string, string] => {
    if (kind === 'rules') return [`/rulebook/${key}`, all.find(({ tree }) => tree.key === key)?.tree.title ?? key];
    const of = (kind === 'guards' ? guards : mirrors).find(({ tree }) => tree.key === key)?.tree;
    const label = of ? lexicon.label([of.on].flat()[0] ?? '', of.field) : key;
    return [`/${kind}`, `${kind === 'guards' ? 'Guard' : 'Mirror'} on ${label}`];
  };
  const [gone, setGone] = useState<string[]>([]);
  const result = (work.work?.result ?? {}) as { told?: number; proposed?: Proposed[] };
  const proposed = (result.proposed ?? []).filter((p) => !gone.includes(p.tree.key));
  const parts = [...new Map(proposed.map((p) => [`${p.kind} ${p.rule}`, p])).values()];
  return (
    <>
      <dl className="mb-4 grid grid-cols-6 border border-line bg-paper" data-test="coverage">
        {Object.entries(FIGURES).map(([what, words]) => {
          const figure = replay?.coverage.figures[what as keyof typeof FIGURES];
          const full = figure && figure.covered === figure.total;
          return (
            <div key={what} className="border-r border-line px-3 py-2 last:border-r-0">
              <dd className="text-[18px]">
                <b className={full ? 'text-teal' : 'text-ochre'}>{figure?.covered ?? '–'}</b>
                <span className="soft"> of {figure?.total ?? '–'}</span>
              </dd>
              <dt className="soft text-[13px]">{words}</dt>
            </div>
          );
        })}
      </dl>
      <WorkHead work={work} what="Propose what is missing">
        <p className="max-w-[76ch]">
          Stories are told about each rule and replayed: each row hit and just missed, each bound from both sides,
          values left empty, look-ups that find none, one and several; and about each guard and mirror. What touches
          something new is kept, with as little in it as that takes. What came out stands beside it; keep it when it is
          right.
        </p>
      </WorkHead>
      {work.work && work.work.done === work.work.chunks && (
        <p className="py-3 text-[16px]" data-test="proposals">
          {(result.proposed ?? []).length === 0 ? (
            <b>Nothing is missing that a story could touch.</b>
          ) : (
            <>
              <b>{proposed.length}</b> {proposed.length === 1 ? 'sample' : 'samples'} proposed
            </>
          )}
          <span className="soft"> out of {result.told} stories</span>
        </p>
      )}
      {parts.map((of) => {
        const [to, name] = part(of);
        return (
          <section key={`${of.kind} ${of.rule}`} className="mb-5">
            <h2 className="mb-2 border-b border-line pb-1">
              <Link className="link leading-6" to={to}>
                {name}
              </Link>
            </h2>
            <div className="flex flex-col gap-3">
              {proposed
                .filter((p) => p.kind === of.kind && p.rule === of.rule)
                .map((p) => (
                  <div key={p.tree.key}>
                    <p className="soft mb-0.5 text-[13px]">New: {p.covers.join(', ')}</p>
                    <ProposedSample tree={p.tree} onGone={() => setGone([...gone, p.tree.key])} />
                  </div>
                ))}
            </div>
          </section>
        );
      })}
    </>
  );
}
