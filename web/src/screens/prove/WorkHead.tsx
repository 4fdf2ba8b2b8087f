import type { ReactNode } from 'react';
import { moment } from '../../app/desk';
import { useWorkshop } from '../../app/workshop';
import { ProblemNote } from '../../parts/ProblemNote';
import type { useWork } from './useWork';

/** What a long work is, how far it has come, and the buttons to ask for it, stop it and go on. */
export function WorkHead({
  work: of,
  what,
  days,
  children,
}: {
  work: ReturnType<typeof useWork>;
  what: string;
  /** For past events: how far back. */
  days?: number;
  children?: ReactNode;
}) {
  const { draft, lexicon } = useWorkshop();
  const { work, running } = of;
  const when = work ? moment(work.at, draft.timezone) : null;
  const done = work && work.done === work.chunks;
  return (
    <section className="border-b border-line pb-3" aria-label="Progress">
      {children}
      <div className="mt-2 flex flex-wrap items-center gap-3">
        {!running && (
          <button type="button" className="btn btn-main" onClick={() => of.ask(days)}>
            {done && work.current ? `${what} again` : what}
          </button>
        )}
        {running && (
          <>
            <progress className="h-2 w-56 accent-teal" max={work?.chunks} value={work?.done} aria-label={what} />
            <span className="tabular-nums" role="status">
              {Math.round(((work?.done ?? 0) / Math.max(1, work?.chunks ?? 1)) * 100)} %
            </span>
            <button type="button" className="btn" onClick={() => of.stop()}>
              Stop
            </button>
          </>
        )}
        {work?.stopped && work.done < work.chunks && (
          <button type="button" className="btn" onClick={() => of.goOn()}>
            Go on from {Math.round((work.done / work.chunks) * 100)} %
          </button>
        )}
        {work && when && (
          <span className="soft" title={when.exact}>
            {lexicon.person(work.by)}, {when.short}
            {done && `, ${(work.ms / 1000).toFixed(1)} s of work`}
          </span>
        )}
        {work && !work.current && (
          <span className="text-ochre">The draft has changed since; this is about the draft as it was then.</span>
        )}
      </div>
      <ProblemNote problem={of.problem} />
    </section>
  );
}
