import type { RuleTrace, Trace } from '../api/client';
import { type RuleTree, typesOf } from '../api/trees';
import type { Lexicon } from './lexicon';
import { saySchedule } from './sentence';

/** What a start waits for, in words. */
function sayStart(start: unknown, type: string, lexicon: Lexicon): string {
  if (typeof start === 'string') return start;
  const [kind, value] = Object.entries(start as Record<string, unknown>)[0] ?? ['', ''];
  switch (kind) {
    case 'changed':
      return `${(value as string[]).map((key) => lexicon.label(type, key).toLowerCase()).join(' or ')} changes`;
    case 'received':
      return 'a message comes in';
    case 'answered':
      return `the call “${String(value)}” comes back`;
    case 'at':
      return saySchedule(String(value));
    case 'by_hand':
      return 'somebody starts it by hand';
    case 'related':
      return `its ${lexicon.label(type, String(value)).toLowerCase()} changes`;
    default:
      return kind;
  }
}

/** Why a rule did not act in an event, in one sentence; null when it did. */
export function sayWhyNot(
  rule: RuleTree,
  look: RuleTrace | undefined,
  trace: Trace | undefined,
  lexicon: Lexicon,
): string | null {
  if (!trace) return null;
  const { type, kind } = trace.event;
  if (rule.enabled === false) return 'It is switched off.';
  if (!typesOf(rule).includes(type))
    return `It runs on ${typesOf(rule)
      .map((key) => `a ${lexicon.type(key)?.title.toLowerCase() ?? key}`)
      .join(' or ')}, and this is a ${lexicon.type(type)?.title.toLowerCase() ?? type}.`;
  if (!look) {
    const waits = rule.starts.map((start) => {
      const words = sayStart(start, type, lexicon);
      return words === 'created' ? 'a record is created' : words === 'deleted' ? 'a record is deleted' : words;
    });
    return `It was not due: it waits until ${waits.join(', or until ')}; here the record was ${kind === 'created' ? 'created' : kind === 'changed' ? 'changed in other fields' : kind}.`;
  }
  if (look.skipped) return `It looked and ended: ${look.skipped}`;
  if (look.only_if && look.only_if.result !== true) {
    const reads = Object.entries((look.only_if.reads ?? {}) as Record<string, unknown>)
      .map(([path, value]) => `${path} is ${typeof value === 'string' ? lexicon.guess(value) : lexicon.say(value)}`)
      .join(', ');
    return `It looked, and its condition does not hold: ${look.only_if.formula}${reads === '' ? '' : ` (${reads})`}.`;
  }
  const rows = look.rows ?? [];
  if (!rows.some((row) => row.fits)) {
    const fails = rows.flatMap((row) => {
      const check = (look.checks ?? []).find((c) => c.column === row.failed?.column);
      if (!row.failed || !check) return [];
      const field = lexicon.field(type, check.of);
      return [
        `row ${row.row + 1} fails at ${(field?.label ?? check.of).toLowerCase()} ${lexicon.say(check.value, field)}, not ${row.failed.test}`,
      ];
    });
    return `It looked, and no row fits: ${fails.slice(0, 4).join('; ')}${fails.length > 4 ? ' …' : ''}.`;
  }
  if (look.status === 'no_effect') {
    const kept = (look.changes ?? []).map(
      (c) => `${lexicon.label(type, c.field).toLowerCase()} ${c.why === '' ? 'was so already' : c.why}`,
    );
    return `A row fits, and there was nothing left to change${kept.length > 0 ? `: ${kept.join(', ')}` : ''}.`;
  }
  return null;
}
