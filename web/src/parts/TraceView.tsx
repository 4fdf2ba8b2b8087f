import type { ReactNode } from 'react';
import type { RuleTrace, Trace } from '../api/client';
import type { Lexicon } from '../app/lexicon';
import { sayWhy } from '../app/sayWhy';
import { isDone, sayAction } from '../screens/rule/sayAction';
import { mark } from './marks';

interface Props {
  trace: Trace;
  lexicon: Lexicon;
  /** Names a rule; its key otherwise. */
  ruleTitle?: (key: string) => string;
  /** The one rule that is of interest; all when left out. */
  only?: string;
}

/** What happened to the record, in words. */
export const KINDS: Record<string, string> = {
  received: 'heard in a message',
  answered: 'had a call come back',
  at: 'was looked at by the clock',
  by_hand: 'had a rule started by hand',
};

const list = <T,>(value: T[] | undefined): T[] => value ?? [];

function Reads({ reads, lexicon }: { reads: unknown; lexicon: Lexicon }) {
  const entries = Array.isArray(reads) ? [] : Object.entries((reads ?? {}) as Record<string, unknown>);
  if (entries.length === 0) return null;
  return (
    <span className="soft">
      {' '}
      (
      {entries
        .map(([path, value]) => `${path} ${typeof value === 'string' ? lexicon.guess(value) : lexicon.say(value)}`)
        .join(', ')}
      )
    </span>
  );
}

/** What one rule did when it looked. */
export function Look({
  look,
  type,
  lexicon,
  title,
}: {
  look: RuleTrace;
  type: string;
  lexicon: Lexicon;
  title: string;
}) {
  const m = mark(look.status);
  const lines: ReactNode[] = [<span key="why">due because {sayWhy(look.why, type, lexicon)}</span>];
  if (look.only_if)
    lines.push(
      <span key="only">
        only if <span className="mono">{look.only_if.formula}</span> → {look.only_if.result === true ? 'yes' : 'no'}
        <Reads reads={look.only_if.reads} lexicon={lexicon} />
      </span>,
    );
  for (const found of look.look_ups)
    lines.push(
      <span key={`l ${found.name}`}>
        <span className="mono">{found.name}</span> is {lexicon.guess(found.value)}
        {found.kind && found.kind !== 'value' && (
          <span className="soft">
            {' '}
            from <span className="mono">{found.formula}</span>, {found.found} found
            {(found.records ?? []).length > 0 &&
              `: ${(found.records ?? [])
                .slice(0, 8)
                .map((id) => lexicon.guess(id))
                .join(', ')}${found.found > 8 ? ' …' : ''}`}
          </span>
        )}
        <Reads reads={found.reads} lexicon={lexicon} />
      </span>,
    );
  for (const row of list(look.rows)) {
    const check = row.failed ? list(look.checks).find((c) => c.column === row.failed?.column) : undefined;
    lines.push(
      row.fits ? (
        <span key={`r ${row.row}`}>
          row {row.row + 1} fits <b className="text-teal">✓</b>
        </span>
      ) : (
        <span key={`r ${row.row}`}>
          row {row.row + 1}: <span className="mono">{check?.of}</span>{' '}
          {lexicon.say(check?.value, lexicon.field(type, check?.of ?? ''))}, not{' '}
          <span className="mono">{row.failed?.test}</span> <span className="text-red">✗</span>
        </span>
      ),
    );
  }
  for (const change of list(look.changes)) {
    const field = lexicon.field(type, change.field);
    lines.push(
      <span key={`c ${change.row} ${change.column}`}>
        {(field?.label ?? change.field).toLowerCase()}{' '}
        {change.made ? (
          <>
            <span className="was">{lexicon.say(change.before, field)}</span> →{' '}
            <b className="now">{lexicon.say(change.after, field)}</b>
          </>
        ) : (
          <span className="soft">{change.problem ? '' : change.why}</span>
        )}
        {change.problem && <b className="text-red"> ✕ {change.problem}</b>}
        <span className="soft">
          {' '}
          from <span className="mono">{change.formula}</span>
        </span>
        <Reads reads={change.reads} lexicon={lexicon} />
        {change.tables.map((call) => (
          <span key={`${call.table} ${call.rows.join()}`} className="soft">
            {' '}
            · table <span className="mono">{call.table}</span>{' '}
            {call.rows.length > 0 ? `row ${call.rows.map((r) => r + 1).join(', ')}` : 'default'} →{' '}
            {lexicon.guess(call.value)}
          </span>
        ))}
        {change.warnings.map((warning) => (
          <span key={warning.message} className="text-ochre">
            {' '}
            ⚠ {warning.message}
          </span>
        ))}
      </span>,
    );
  }
  if (look.skipped) lines.push(<span key="skip">{look.skipped} The rule does not go on.</span>);
  return (
    <div className="mt-1.5">
      <div className="flex gap-2.5">
        <span className={`w-3 ${m.tone}`} title={m.words}>
          {m.sign}
        </span>
        <b>{title}</b>
        <span className="soft ml-auto shrink-0">{m.words}</span>
      </div>
      <div className="ml-[5px] flex flex-col border-l border-line pl-4 text-[13px]">{lines}</div>
    </div>
  );
}

/** What happened to which record, and what came in. */
export function Heading({ trace, lexicon }: { trace: Trace; lexicon: Lexicon }) {
  const type = trace.event.type;
  // what follows from fields that rules changed did not come in
  const rules = trace.changes.findIndex((change) => change.rule !== null);
  const incoming = rules < 0 ? trace.changes : trace.changes.slice(0, rules);
  return (
    <p className="text-[13px]">
      <b>{trace.event.record}</b> {KINDS[trace.event.kind] ?? trace.event.kind}
      {trace.event.kind === 'at' ? '' : ` by ${lexicon.person(trace.event.by)}`}
      {incoming.length > 0 && (
        <span className="soft">
          {' '}
          with{' '}
          {incoming
            .map(
              (c) =>
                `${lexicon.label(type, c.field).toLowerCase()} ${lexicon.say(c.after, lexicon.field(type, c.field))}`,
            )
            .join(', ')}
        </span>
      )}
    </p>
  );
}

interface Whole {
  trace: Trace;
  lexicon: Lexicon;
  title: (rule: string) => string;
  isShown?: (rule: string) => boolean;
}

/** What was done once the record had settled. */
export function Waited({ trace, lexicon, title, isShown = () => true }: Whole) {
  const actions = (trace.actions ?? []).filter((action) => isShown(action.rule));
  if (actions.length === 0) return null;
  return (
    <section className="mt-2" data-test="trace-actions">
      <h2 className="border-b border-ink pb-0.5">Once it has settled</h2>
      {actions.map((action) => {
        const { what, says } = sayAction(action, lexicon);
        return (
          <p key={`${action.rule} ${action.row} ${action.column}`} className="mt-1 text-[13px]">
            <span className="soft">{title(action.rule)}</span>{' '}
            {action.problem ? (
              <b className="text-red">✕ {says}</b>
            ) : isDone(action) ? (
              <>
                <b className="text-plum">{what}</b> {says}
              </>
            ) : (
              <span className="soft">{action.kind}: nothing to do</span>
            )}
          </p>
        );
      })}
    </section>
  );
}

/** How it ended: settled, in a circle, turned down, with problems. */
export function Ends({ trace, title }: Omit<Whole, 'lexicon'>) {
  return (
    <>
      {trace.passes.length === 0 && trace.refused.length === 0 && (
        <p className="soft mt-2">No rule starts on this. Settled.</p>
      )}
      {trace.circle && (
        <p className="mt-2 text-red">
          ✕ The record does not settle: {trace.circle.map(title).join(', ')} go round in a circle.
        </p>
      )}
      {trace.refused.map((r) => (
        <p key={r.field + r.reason} className="mt-2 text-red">
          Turned down: {r.reason}
        </p>
      ))}
      {trace.problems
        .filter((p) => p.rule === null)
        .map((p) => (
          <p key={p.message} className="mt-2 text-red">
            ✕ {p.message}
          </p>
        ))}
      {trace.passes.length > 0 && !trace.circle && (
        <p className="soft mt-2">No further rule starts on this. Settled.</p>
      )}
    </>
  );
}

/** The full account of one event. */
export function TraceView({ trace, lexicon, ruleTitle, only }: Props) {
  const isShown = (rule: string): boolean => only === undefined || rule === only;
  const title = ruleTitle ?? ((key: string) => key);
  return (
    <div data-test="trace">
      <Heading trace={trace} lexicon={lexicon} />
      {trace.passes
        .filter((pass) => pass.rules.some((look) => isShown(look.rule)))
        .map((pass) => (
          <section key={pass.pass} className="mt-2">
            <h2 className="border-b border-ink pb-0.5">Pass {pass.pass}</h2>
            {pass.rules
              .filter((look) => isShown(look.rule))
              .map((look) => (
                <Look key={look.rule} look={look} type={trace.event.type} lexicon={lexicon} title={title(look.rule)} />
              ))}
          </section>
        ))}
      <Waited trace={trace} lexicon={lexicon} title={title} isShown={isShown} />
      <Ends trace={trace} title={title} />
    </div>
  );
}
