import { Link } from 'react-router';
import { TraceView } from '../parts/TraceView';
import { Verdict } from '../parts/Verdict';
import { PROVES, useWorkshop } from './workshop';

/** The sample in hand, along the bottom of every screen; opens upward into the full trace. */
export function SampleBar({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
  const { inHand, step, setStep, traced, lexicon, samples, takeInHand, replaying, progress, trouble } = useWorkshop();
  if (!inHand)
    return (
      <footer className="col-span-2 border-t-2 border-ink bg-sheet px-4 py-2">
        No sample in hand. Keep a ticket as a sample, or write one under Samples.
      </footer>
    );
  const steps = inHand.tree.steps.length;
  const turn = (by: number) => {
    const at = samples.findIndex((s) => s.part.key === inHand.part.key);
    const next = samples[(at + by + samples.length) % samples.length];
    if (next) takeInHand(next.part.key);
  };
  const type = traced?.trace?.event.type ?? '';
  const changes = (inHand.result?.steps[step]?.changes ?? []).filter((change) => change.rule !== null);
  return (
    <footer className="col-span-2 border-t-2 border-ink bg-sheet" data-test="sample-bar">
      {open && (
        <div
          className="max-h-[45vh] overflow-auto border-b border-line bg-paper px-4 py-3"
          role="region"
          aria-label="Trace"
          tabIndex={0}
        >
          {traced?.trace ? (
            <TraceView trace={traced.trace} lexicon={lexicon} />
          ) : (
            <p className="soft">The clock moves; no rule looks.</p>
          )}
        </div>
      )}
      <div className="flex h-10 items-center gap-3.5 px-3.5 text-[13.5px] whitespace-nowrap">
        <span className="rounded-xs bg-ink px-2 py-px text-[12px] font-semibold text-paper">In hand</span>
        <b>{inHand.number}</b>
        <Link to={`/samples/${inHand.part.key}`} className="truncate hover:underline">
          {inHand.tree.title}
        </Link>
        <span className="soft">{PROVES.find(([key]) => key === inHand.tree.proves)?.[1]}</span>
        <span className="soft">
          step{' '}
          <button type="button" disabled={step === 0} onClick={() => setStep(step - 1)} aria-label="Previous step">
            ◂
          </button>{' '}
          <b className="text-ink">{step + 1}</b> of {steps}{' '}
          <button type="button" disabled={step >= steps - 1} onClick={() => setStep(step + 1)} aria-label="Next step">
            ▸
          </button>
        </span>
        <Verdict verdict={inHand.result?.verdict} />
        <span className="min-w-0 flex-1 truncate text-plum" data-test="bar-changes">
          {changes.map((change) => (
            <span key={`${change.field} ${change.rule} ${String(change.after)}`} className="mr-4">
              {lexicon.label(type, change.field).toLowerCase()}{' '}
              {lexicon.sayChange(change.before, change.after, lexicon.field(type, change.field))}
            </span>
          ))}
        </span>
        {trouble && (
          <span
            className="max-w-[220px] truncate text-[12px] text-red"
            title={`${trouble.message} ${trouble.detail}`}
            role="alert"
          >
            ✕ {trouble.message}
          </span>
        )}
        {progress ? (
          <span className="soft flex items-center gap-2 text-[12px]" role="status" data-test="replaying">
            {progress.stopped ? `stopped at ${progress.percent} %` : `all samples, ${progress.percent} %`}
            <button type="button" className="link" onClick={progress.stopped ? progress.goOn : progress.stop}>
              {progress.stopped ? 'go on' : 'stop'}
            </button>
          </span>
        ) : (
          <span className={`soft text-[12px] ${replaying ? '' : 'invisible'}`}>replaying</span>
        )}
        <button
          type="button"
          className="soft flex items-center gap-1"
          onClick={() => turn(-1)}
          aria-label="Previous sample"
        >
          <span className="key">[</span>
        </button>
        <button type="button" className="soft flex items-center gap-1" onClick={() => turn(1)} aria-label="Next sample">
          <span className="key">]</span> sample
        </button>
        <button
          type="button"
          className="soft flex items-center gap-1"
          onClick={() => onOpen(!open)}
          aria-expanded={open}
        >
          <span className="key">T</span> trace
        </button>
      </div>
    </footer>
  );
}
