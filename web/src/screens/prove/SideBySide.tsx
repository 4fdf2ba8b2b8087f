import { Fragment, useState } from 'react';
import type { RuleTrace, Trace } from '../../api/client';
import { useWorkshop } from '../../app/workshop';
import { Ends, Heading, Look, TraceView, Waited } from '../../parts/TraceView';
import { align, type Line, sayParting } from './align';

interface Side {
  title: string;
  /** As it is called in a sentence. */
  name: string;
  trace: Trace | null | undefined;
  /** Why there is none. */
  why: string | null;
}

const CELL = 'min-w-0 px-4';

/** Two accounts line by line, the same rules beside each other, with the first point at which they part. */
export function SideBySide({ left, right }: { left: Side; right: Side }) {
  const shop = useWorkshop();
  const [onlyOther, setOnlyOther] = useState(false);
  const title = (key: string) => shop.rules.find(({ tree }) => tree.key === key)?.tree.title ?? key;
  if (!left.trace || !right.trace)
    return (
      <div className="grid min-h-0 flex-1 grid-cols-2 divide-x divide-line">
        {[left, right].map((side) => (
          <section key={side.title} className="min-w-0 overflow-auto px-4 py-3" aria-label={side.title} tabIndex={0}>
            <h2 className="mb-2">{side.title}</h2>
            {side.trace ? (
              <TraceView trace={side.trace} lexicon={shop.lexicon} ruleTitle={title} />
            ) : (
              <p className="text-ochre">It cannot be told: {side.why ?? 'nothing happened'}.</p>
            )}
          </section>
        ))}
      </div>
    );
  const [a, b] = [left.trace, right.trace];
  const lines = align(a, b);
  const first = lines.find((line) => !line.same);
  const shown = onlyOther ? lines.filter((line) => !line.same) : lines;
  const alike = lines.length - lines.filter((line) => !line.same).length;
  const account = (look: RuleTrace | undefined, trace: Trace, line: Line) =>
    look ? (
      <Look look={look} type={trace.event.type} lexicon={shop.lexicon} title={title(look.rule)} />
    ) : (
      <p className="soft mt-1.5 pl-[22px] text-[13px] italic">“{title(line.rule)}” does not look.</p>
    );
  return (
    <>
      <div className="flex items-baseline gap-6 border-b border-line px-5 py-2">
        <p className="flex-1 text-[15px]" data-test="parting">
          {first
            ? sayParting(first, title(first.rule), [left.name, right.name])
            : 'They do not part: every rule looks alike and comes to the same.'}
        </p>
        {first && (
          <label className="flex shrink-0 items-center gap-2">
            <input type="checkbox" checked={onlyOther} onChange={(e) => setOnlyOther(e.target.checked)} />
            Only where they differ
            <span className="soft">
              ({alike} {alike === 1 ? 'line is' : 'lines are'} alike)
            </span>
          </label>
        )}
      </div>
      <div className="min-h-0 flex-1 overflow-auto pb-4" role="region" aria-label="Both accounts" tabIndex={0}>
        <div className="grid grid-cols-2 gap-x-0" data-test="aligned">
          {[left, right].map((side) => (
            <div key={side.title} className={`${CELL} pt-3`}>
              <h2 className="mb-1">{side.title}</h2>
              {side.trace && <Heading trace={side.trace} lexicon={shop.lexicon} />}
            </div>
          ))}
          {shown.map((line, i) => (
            <Fragment key={`${line.pass} ${line.rule} ${line.left ? 'l' : ''}${line.right ? 'r' : ''}`}>
              {line.pass !== shown[i - 1]?.pass && (
                <h2 className="col-span-2 mx-4 mt-3 border-b border-ink pb-0.5">Pass {line.pass}</h2>
              )}
              {line === first && (
                <p className="col-span-2 mx-4 mt-2 border-t-2 border-plum pt-0.5 text-[13px] font-semibold text-plum">
                  Here they part
                </p>
              )}
              <div
                className={`${CELL} ${line.same ? '' : 'bg-plumbg/40 pb-1.5'}`}
                data-line={line.same ? 'same' : 'other'}
              >
                {account(line.left, a, line)}
              </div>
              <div className={`${CELL} border-l border-line ${line.same ? '' : 'bg-plumbg/40 pb-1.5'}`}>
                {account(line.right, b, line)}
              </div>
            </Fragment>
          ))}
          {[a, b].map((trace, i) => (
            <div key={i === 0 ? 'left' : 'right'} className={`${CELL} mt-2`}>
              <Waited trace={trace} lexicon={shop.lexicon} title={title} />
              <Ends trace={trace} title={title} />
            </div>
          ))}
        </div>
      </div>
    </>
  );
}
