import type { RuleTrace, Trace } from '../../api/client';

/** One line of two accounts: a rule that looked under one of them, or under both at the same place. */
export interface Line {
  pass: number;
  rule: string;
  left: RuleTrace | undefined;
  right: RuleTrace | undefined;
  /** Whether both looked and came to the same. */
  same: boolean;
}

const equal = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

const fits = (look: RuleTrace) => (look.rows ?? []).filter((row) => row.fits).map((row) => row.row);

const made = (look: RuleTrace) => (look.changes ?? []).map((c) => [c.field, c.after, c.made]);

const cameTo = (look: RuleTrace) => [look.only_if?.result, fits(look), made(look), look.status];

/** Two accounts line by line: pass by pass, the same rules beside each other in the order in which they looked. */
export function align(left: Trace, right: Trace): Line[] {
  const lines: Line[] = [];
  const most = Math.max(left.passes.length, right.passes.length);
  for (let i = 0; i < most; i++) {
    const [a, b] = [left.passes[i]?.rules ?? [], right.passes[i]?.rules ?? []];
    const pass = left.passes[i]?.pass ?? right.passes[i]?.pass ?? i + 1;
    for (const [one, other] of pairs(a, b)) {
      const rule = one?.rule ?? other?.rule ?? '';
      const same = one !== undefined && other !== undefined && equal(cameTo(one), cameTo(other));
      lines.push({ pass, rule, left: one, right: other, same });
    }
  }
  return lines;
}

/** The longest run of rules that both have in common stands beside each other; what is left stands alone. */
function pairs(a: RuleTrace[], b: RuleTrace[]): [RuleTrace | undefined, RuleTrace | undefined][] {
  const long: number[][] = Array.from({ length: a.length + 1 }, () => new Array<number>(b.length + 1).fill(0));
  const at = (i: number, j: number) => long[i]?.[j] ?? 0;
  for (let i = a.length - 1; i >= 0; i--)
    for (let j = b.length - 1; j >= 0; j--)
      (long[i] as number[])[j] =
        a[i]?.rule === b[j]?.rule ? at(i + 1, j + 1) + 1 : Math.max(at(i + 1, j), at(i, j + 1));
  const found: [RuleTrace | undefined, RuleTrace | undefined][] = [];
  let [i, j] = [0, 0];
  while (i < a.length || j < b.length) {
    if (i < a.length && j < b.length && a[i]?.rule === b[j]?.rule) found.push([a[i++], b[j++]]);
    else if (j >= b.length || (i < a.length && at(i + 1, j) >= at(i, j + 1))) found.push([a[i++], undefined]);
    else found.push([undefined, b[j++]]);
  }
  return found;
}

/** What a line says about where two accounts part. */
export function sayParting({ left, right }: Line, title: string, names: [string, string]): string {
  const [one, other] = names;
  if (!left) return `They part where “${title}” looks under ${other} and not under ${one}.`;
  if (!right) return `They part where “${title}” looks under ${one} and not under ${other}.`;
  const holds = (look: RuleTrace) => look.only_if?.result === true;
  if (!equal(left.only_if?.result, right.only_if?.result))
    return `They part at “${title}”: its condition ${holds(left) ? 'holds' : 'does not hold'} under ${one}, and ${holds(right) ? 'holds' : 'does not hold'} under ${other}.`;
  if (!equal(fits(left), fits(right))) {
    const rows = (look: RuleTrace) => {
      const found = fits(look).map((row) => row + 1);
      return found.length === 0 ? 'no row' : `row${found.length > 1 ? 's' : ''} ${found.join(', ')}`;
    };
    return `They part at “${title}”: ${rows(left)} fits under ${one}, ${rows(right)} under ${other}.`;
  }
  return `They part at “${title}”: it comes to something else.`;
}
