import type { ReactNode } from 'react';
import type { RuleTrace, Trace } from '../api/client';
import type { Lexicon } from '../app/lexicon';
import { mark } from './marks';

interface Props {
  trace: Trace;
  lexicon: Lexicon;
  /** Names a rule; its key otherwise. */
  ruleTitle?: (key: string) => string;
}

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

function Why({ look, type, lexicon }: { look: RuleTrace; type: string; lexicon: Lexicon }) {
  if (look.why.kind === 'created') return <>due because the record was created</>;
  const field = lexicon.field(type, look.why.field ?? '');
  return (
    <>
      due because {(field?.label ?? look.why.field ?? '').toLowerCase()} went from {lexicon.say(look.why.from, field)}{' '}
      to <b>{lexicon.say(look.why.to, field)}</b>
    </>
  );
}

function Look({ look, type, lexicon, title }: { look: RuleTrace; type: string; lexicon: Lexicon; title: string }) {
  const m = mark(look.status);
  const lines: ReactNode[] = [<Why key="why" look={look} type={type} lexicon={lexicon} />];
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

/** The full account of one event. */
export function TraceView({ trace, lexicon, ruleTitle }: Props) {
  const type = trace.event.type;
  const title = ruleTitle ?? ((key: string) => key);
  const incoming = trace.changes.filter((change) => change.rule === null);
  return (
    <div data-test="trace">
      <p className="text-[13px]">
        <b>{trace.event.record}</b> {trace.event.kind} by {lexicon.person(trace.event.by)}
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
      {trace.passes.map((pass) => (
        <section key={pass.pass} className="mt-2">
          <h2 className="border-b border-ink pb-0.5">Pass {pass.pass}</h2>
          {pass.rules.map((look) => (
            <Look key={look.rule} look={look} type={type} lexicon={lexicon} title={title(look.rule)} />
          ))}
        </section>
      ))}
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
    </div>
  );
}
