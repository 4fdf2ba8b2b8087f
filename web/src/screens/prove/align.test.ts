import { describe, expect, it } from 'vitest';
import type { Trace } from '../../api/client';
import { align, sayParting } from './align';

const trace = (...passes: unknown[][]) =>
  ({ passes: passes.map((rules, i) => ({ pass: i + 1, rules })) }) as unknown as Trace;
const look = (rule: string, row: number | null = 0, more: object = {}) => ({
  rule,
  status: 'acted',
  rows: [0, 1].map((r) => ({ row: r, fits: r === row })),
  changes: [],
  ...more,
});
const sides = (left: Trace, right: Trace) =>
  align(left, right).map((l) => `${l.pass} ${l.left?.rule ?? '–'} ${l.right?.rule ?? '–'} ${l.same ? '=' : '≠'}`);
const say = (left: Trace, right: Trace) => {
  const first = align(left, right).find((line) => !line.same);
  return first ? sayParting(first, first.rule.toUpperCase(), ['the edition', 'the draft']) : null;
};

describe('two accounts beside each other', () => {
  it('have the same rules on one line, and what only one of them has alone', () => {
    expect(sides(trace([look('a'), look('b'), look('c')]), trace([look('a'), look('x'), look('c')]))).toEqual([
      '1 a a =',
      '1 b – ≠',
      '1 – x ≠',
      '1 c c =',
    ]);
    expect(sides(trace([look('b'), look('a')]), trace([look('a'), look('b')]))).toEqual([
      '1 b – ≠',
      '1 a a =',
      '1 – b ≠',
    ]);
  });
  it('keep passes apart', () => {
    expect(sides(trace([look('a')], [look('a')]), trace([look('a')]))).toEqual(['1 a a =', '2 a – ≠']);
  });
});

describe('where two accounts part', () => {
  it('is nowhere when they come to the same, even from other values', () => {
    expect(
      say(trace([look('a', 0, { checks: [{ value: 1 }] })]), trace([look('a', 0, { checks: [{ value: 2 }] })])),
    ).toBe(null);
  });
  it('is the first row that differs', () => {
    expect(say(trace([look('a'), look('b', 0)]), trace([look('a'), look('b', 1)]))).toBe(
      'They part at “B”: row 1 fits under the edition, row 2 under the draft.',
    );
    expect(say(trace([look('a', null)]), trace([look('a', 1)]))).toContain(
      'no row fits under the edition, row 2 under',
    );
  });
  it('is a rule that only one of them has', () => {
    expect(say(trace([look('a')]), trace([]))).toBe(
      'They part where “A” looks under the edition and not under the draft.',
    );
    expect(say(trace([look('b')]), trace([look('a'), look('b')]))).toBe(
      'They part where “A” looks under the draft and not under the edition.',
    );
  });
  it('is a condition, or what a change made', () => {
    expect(
      say(trace([look('a', 0, { only_if: { result: true } })]), trace([look('a', 0, { only_if: { result: false } })])),
    ).toContain('its condition holds under the edition, and does not hold under the draft');
    const set = (after: number) => ({ changes: [{ field: 'x', after, made: true }] });
    expect(say(trace([look('a', 0, set(1))]), trace([look('a', 0, set(2))]))).toContain('it comes to something else');
  });
});
