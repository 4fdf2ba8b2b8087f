import { describe, expect, it } from 'vitest';
import type { FieldTree, VariantsTree } from '../../api/trees';
import { pasteBlock, readCell, writeCell } from './variants';

const impact = {
  key: 'impact',
  label: 'Impact',
  type: 'choice',
  options: [{ key: 'sailing', label: 'The next sailing' }],
} as unknown as FieldTree;
const hours = { key: 'hours_down', label: 'Hours down', type: 'number' } as unknown as FieldTree;
const tags = { key: 'tags', label: 'Tags', type: 'tags' } as unknown as FieldTree;
const safety = { key: 'safety', label: 'Safety', type: 'yes_no' } as unknown as FieldTree;

describe('cells of variants', () => {
  it('reads what people and spreadsheets write', () => {
    expect(readCell('the next sailing', impact)).toBe('sailing');
    expect(readCell('sailing', impact)).toBe('sailing');
    expect(readCell('4,5', hours)).toBe(4.5);
    expect(readCell('soon', hours)).toBe('soon');
    expect(readCell(' ', hours)).toBeNull();
    expect(readCell('no', safety)).toBe(false);
    expect(readCell('sailing, late', tags)).toEqual(['sailing', 'late']);
  });
  it('writes what it reads', () => {
    for (const [value, field] of [
      ['sailing', impact],
      [4.5, hours],
      [true, safety],
      [['a', 'b'], tags],
      [null, hours],
    ] as const)
      expect(readCell(writeCell(value, field), field)).toEqual(value);
  });
  it('pastes a block over the lines and adds what is missing', () => {
    const variants: VariantsTree = { inputs: ['a', 'b'], outcomes: ['X.c'], lines: [{ in: [1, 2], out: [3] }] };
    const pasted = pasteBlock(variants, 0, 1, '20\t30\r\n21\t31\textra\r\n', (text) => Number(text));
    expect(pasted.lines).toEqual([
      { in: [1, 20], out: [30] },
      { in: [null, 21], out: [31] },
    ]);
    expect(variants.lines[0]?.in).toEqual([1, 2]);
  });
});
