import { Popover } from 'radix-ui';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { Trace } from '../api/client';
import type { Lexicon } from '../app/lexicon';

interface Cause {
  pass: number;
  place: number;
  rule: string;
  row: number;
  formula: string;
  before: unknown;
  after: unknown;
  checks: { of: string; value: unknown }[];
  reads: Record<string, unknown>;
  tables: { table: string; rows: number[] }[];
}

/** Every change that was made to a field, in order. */
function causes(trace: Trace, field: string): Cause[] {
  return (trace.passes ?? []).flatMap((pass) =>
    pass.rules.flatMap((look, place) =>
      (look.changes ?? [])
        .filter((change) => change.field === field && change.made)
        .map((change) => ({
          pass: pass.pass,
          place,
          rule: look.rule,
          row: change.row,
          formula: change.formula,
          before: change.before,
          after: change.after,
          checks: look.checks ?? [],
          reads: (Array.isArray(change.reads) ? {} : (change.reads ?? {})) as Record<string, unknown>,
          tables: change.tables ?? [],
        })),
    ),
  );
}

/** From a value back to the rule, row, formula and table row that made it, and to what those read. */
function Chain({
  trace,
  field,
  lexicon,
  title,
  before,
  depth,
}: {
  trace: Trace;
  field: string;
  lexicon: Lexicon;
  title: (rule: string) => string;
  before: { pass: number; place: number } | null;
  depth: number;
}) {
  const type = trace.event.type;
  const of = lexicon.field(type, field);
  const found = causes(trace, field).filter(
    (c) => before === null || c.pass < before.pass || (c.pass === before.pass && c.place < before.place),
  );
  const last = found.at(-1);
  if (!last) {
    const came = trace.changes.find((c) => c.field === field && c.rule === null);
    const label = (of?.label ?? field).toLowerCase();
    return (
      <li>
        {came
          ? of?.type === 'derived'
            ? `${label} is derived from other fields`
            : of?.type === 'tally'
              ? `${label} is counted by the desk`
              : `${label} came with the event, or follows by a mirror: ${lexicon.say(came.after, of)}`
          : `${label} stood so before the event`}
      </li>
    );
  }
  const deeper = [...new Set([...last.checks.map((c) => c.of), ...Object.keys(last.reads)])].filter(
    (path) => !path.includes('.') && path !== field && lexicon.field(type, path) !== undefined,
  );
  return (
    <li>
      {(of?.label ?? field).toLowerCase()} <b className="now">{lexicon.say(last.after, of)}</b> was set by{' '}
      <Link className="link" to={`/rulebook/${last.rule}`}>
        {title(last.rule)}
      </Link>
      , row {last.row + 1}
      {last.checks.length > 0 &&
        `, at ${last.checks.map((c) => `${(lexicon.field(type, c.of)?.label ?? c.of).toLowerCase()} ${lexicon.say(c.value, lexicon.field(type, c.of))}`).join(' and ')}`}
      , from <span className="mono">{last.formula}</span>
      {Object.keys(last.reads).length > 0 && (
        <span className="soft">
          {' '}
          (
          {Object.entries(last.reads)
            .map(([path, value]) => `${path} ${typeof value === 'string' ? lexicon.guess(value) : lexicon.say(value)}`)
            .join(', ')}
          )
        </span>
      )}
      {last.tables.map((call) => (
        <span key={`${call.table} ${call.rows.join()}`}>
          {' '}
          by{' '}
          <Link className="link" to={`/tables/${call.table}`}>
            table {call.table}
          </Link>
          {call.rows.length > 0 ? `, row ${call.rows.map((r) => r + 1).join(', ')}` : ', its default'}
        </span>
      ))}
      {depth > 0 && deeper.length > 0 && (
        <ul className="ml-4 list-disc">
          {deeper.map((path) => (
            <Chain
              key={path}
              trace={trace}
              field={path}
              lexicon={lexicon}
              title={title}
              before={{ pass: last.pass, place: last.place }}
              depth={depth - 1}
            />
          ))}
        </ul>
      )}
      {found.length > 1 && (
        <p className="soft">
          Before that:{' '}
          {found
            .slice(0, -1)
            .map((c) => `${title(c.rule)} → ${lexicon.say(c.after, of)}`)
            .join(', ')}
          . The later one stands.
        </p>
      )}
    </li>
  );
}

/** A value that tells why it is so. */
export function WhyValue({
  trace,
  field,
  lexicon,
  title,
  children,
}: {
  trace: Trace | undefined | null;
  field: string;
  lexicon: Lexicon;
  title: (rule: string) => string;
  children: ReactNode;
}) {
  if (!trace) return <>{children}</>;
  return (
    <Popover.Root>
      <Popover.Trigger
        className="border-b border-dotted border-soft text-left hover:border-solid"
        aria-label={`Why is ${lexicon.label(trace.event.type, field)} so?`}
        data-test={`why-${field}`}
      >
        {children}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          className="menu max-w-[560px] px-4 py-3 text-[13.5px]"
          align="start"
          sideOffset={4}
          data-test="why-chain"
        >
          <h3 className="mb-1 font-semibold">Why {lexicon.label(trace.event.type, field).toLowerCase()} is so</h3>
          <ul className="list-disc pl-4">
            <Chain trace={trace} field={field} lexicon={lexicon} title={title} before={null} depth={3} />
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
