import type { Trace } from '../../api/client';
import { useWorkshop } from '../../app/workshop';
import { TraceView } from '../../parts/TraceView';

interface Side {
  title: string;
  /** As it is called in a sentence. */
  name: string;
  trace: Trace | null | undefined;
  /** Why there is none. */
  why: string | null;
}

/** The first rule at which two accounts part, in words; null when they do not. */
export function sayParting(left: Side, right: Side, title: (rule: string) => string): string | null {
  const looks = (side: Side) => (side.trace?.passes ?? []).flatMap((pass) => pass.rules);
  const [a, b] = [looks(left), looks(right)];
  const same = (x: unknown, y: unknown) => JSON.stringify(x) === JSON.stringify(y);
  for (let i = 0; i < Math.max(a.length, b.length); i++) {
    const [one, other] = [a[i], b[i]];
    if (one?.rule !== other?.rule)
      return `They part where ${one ? `“${title(one.rule)}” looks` : 'nothing more looks'} under ${left.name} and ${other ? `“${title(other.rule)}”` : 'nothing more'} under ${right.name}.`;
    if (!same(one?.only_if?.result, other?.only_if?.result))
      return `They part at “${title(one?.rule ?? '')}”: its condition ${one?.only_if?.result === true ? 'holds' : 'does not hold'} under ${left.name}, and ${other?.only_if?.result === true ? 'holds' : 'does not hold'} under ${right.name}.`;
    if (!same(one?.rows, other?.rows)) {
      const fits = (look: typeof one) => look?.rows?.find((r) => r.fits)?.row;
      const [was, would] = [fits(one), fits(other)];
      if (was !== would)
        return `They part at “${title(one?.rule ?? '')}”: ${was === undefined ? 'no row' : `row ${was + 1}`} fits under ${left.name}, ${would === undefined ? 'no row' : `row ${would + 1}`} under ${right.name}.`;
    }
    const made = (look: typeof one) => (look?.changes ?? []).map((c) => [c.field, c.after, c.made]);
    if (!same(made(one), made(other)) || one?.status !== other?.status)
      return `They part at “${title(one?.rule ?? '')}”: it comes to something else.`;
  }
  return null;
}

function Account({ side, title }: { side: Side; title: (rule: string) => string }) {
  const shop = useWorkshop();
  return (
    <section className="min-w-0 overflow-auto px-4 py-3" aria-label={side.title} tabIndex={0}>
      <h2 className="mb-2">{side.title}</h2>
      {side.trace ? (
        <TraceView trace={side.trace} lexicon={shop.lexicon} ruleTitle={title} />
      ) : (
        <p className="text-ochre">It cannot be told: {side.why ?? 'nothing happened'}.</p>
      )}
    </section>
  );
}

/** Two accounts beside each other, with the first point at which they part. */
export function SideBySide({ left, right }: { left: Side; right: Side }) {
  const shop = useWorkshop();
  const title = (key: string) => shop.rules.find(({ tree }) => tree.key === key)?.tree.title ?? key;
  const parting = left.trace && right.trace ? sayParting(left, right, title) : null;
  return (
    <>
      {left.trace && right.trace && (
        <p className="border-b border-line px-5 py-2 text-[15px]" data-test="parting">
          {parting ?? 'They do not part: every rule looks alike and comes to the same.'}
        </p>
      )}
      <div className="grid min-h-0 flex-1 grid-cols-2 divide-x divide-line">
        <Account side={left} title={title} />
        <Account side={right} title={title} />
      </div>
    </>
  );
}
