import { useState } from 'react';
import { Link } from 'react-router';
import type { SampleTree } from '../../api/trees';
import { useWorkshop } from '../../app/workshop';
import { ProposedSample } from './ProposedSample';
import { useWork } from './useWork';
import { WorkHead } from './WorkHead';

interface Change {
  place: number;
  kind: 'rules' | 'tables' | 'guards' | 'mirrors';
  key: string;
  at: string;
  says: string;
  proposed: SampleTree | null;
}

/** Small changes of the rulebook that no sample notices, each with a sample that would. */
export default function Unnoticed() {
  const work = useWork('notice');
  const { rules, tables } = useWorkshop();
  const titleOf = (key: string) => rules.find(({ tree }) => tree.key === key)?.tree.title ?? key;
  const [gone, setGone] = useState<string[]>([]);
  const result = (work.work?.result ?? {}) as { tried?: number; unnoticed?: Change[] };
  const changes = result.unnoticed ?? [];
  const tried = result.tried ?? 0;
  const parts = [...new Set(changes.map((c) => `${c.kind}/${c.key}`))];
  return (
    <>
      <WorkHead work={work} what="Change the rulebook in small ways">
        <p className="max-w-[76ch]">
          The rulebook is changed in one small way at a time: a comparison turned, a row dropped, a cell emptied, two
          rows swapped, a rule off. The samples that could tell are replayed. What none of them notices could go wrong
          unnoticed as well.
        </p>
      </WorkHead>
      {tried > 0 && (
        <p className="py-3 text-[16px]" data-test="noticed">
          <b>{tried - changes.length}</b> of {tried} small changes are noticed,{' '}
          <b>{Math.floor(((tried - changes.length) / tried) * 100)} %</b>.
          {changes.length === 0 && work.work?.done === work.work?.chunks && ' Nothing slips through.'}
        </p>
      )}
      {parts.map((part) => {
        const [kind, key] = part.split('/') as [Change['kind'], string];
        const title = kind === 'rules' ? titleOf(key) : (tables.find((t) => t.tree.key === key)?.tree.title ?? key);
        return (
          <section key={part} className="mb-4">
            <h2 className="border-b border-line pb-1">
              <Link className="link leading-6" to={kind === 'rules' ? `/rulebook/${key}` : `/${kind}/${key}`}>
                {title}
              </Link>
            </h2>
            {changes
              .filter((c) => `${c.kind}/${c.key}` === part)
              .map((change) => {
                const id = `${part}${change.at}${change.says}`;
                return (
                  <details key={id} className="border-b border-faint py-1.5" data-test="unnoticed">
                    <summary className="cursor-pointer leading-6">
                      If {change.says.includes(':') ? 'in ' : ''}
                      {change.says}, nothing would show it.
                      {change.proposed === null && (
                        <span className="soft"> No story was found that would; it may make no difference.</span>
                      )}
                    </summary>
                    {change.proposed && !gone.includes(id) && (
                      <div className="my-2 ml-4">
                        <ProposedSample tree={change.proposed} onGone={() => setGone([...gone, id])} />
                      </div>
                    )}
                  </details>
                );
              })}
          </section>
        );
      })}
    </>
  );
}
