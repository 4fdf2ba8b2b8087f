import { describe, expect, it } from 'vitest';
import type { Trace } from '../../api/client';
import { sayParting } from './SideBySide';

const trace = (rules: unknown[]) => ({ passes: [{ pass: 1, rules }] }) as unknown as Trace;
const look = (rule: string, row: number | null, more: object = {}) => ({
  rule,
  status: 'acted',
  rows: [0, 1].map((r) => ({ row: r, fits: r === row })),
  changes: [],
  ...more,
});
const say = (left: unknown[], right: unknown[]) =>
  sayParting(
    { title: 'A', name: 'the edition', trace: trace(left), why: null },
    { title: 'B', name: 'the draft', trace: trace(right), why: null },
    (rule) => rule.toUpperCase(),
  );

describe('where two accounts part', () => {
  it('is nowhere when they are the same', () => {
    expect(say([look('a', 0)], [look('a', 0)])).toBeNull();
  });
  it('is the first row that differs', () => {
    expect(say([look('a', 0), look('b', 0)], [look('a', 0), look('b', 1)])).toBe(
      'They part at “B”: row 1 fits under the edition, row 2 under the draft.',
    );
  });
  it('is a rule that only one of them knows', () => {
    expect(say([look('a', 0)], [])).toBe(
      'They part where “A” looks under the edition and nothing more under the draft.',
    );
  });
  it('is a condition, or what a change made', () => {
    expect(
      say([look('a', 0, { only_if: { result: true } })], [look('a', 0, { only_if: { result: false } })]),
    ).toContain('its condition holds under the edition, and does not hold under the draft');
    expect(
      say(
        [look('a', 0, { changes: [{ field: 'x', after: 1, made: true }] })],
        [look('a', 0, { changes: [{ field: 'x', after: 2, made: true }] })],
      ),
    ).toContain('it comes to something else');
  });
});
