import { describe, expect, it } from 'vitest';
import { fitting } from './CellEditor';

const options = [
  { label: 'Sailing at risk', detail: 'sailing_at_risk', insert: '"sailing_at_risk"' },
  { label: 'Soon', detail: 'soon', insert: '"soon"' },
  { label: 'chief', detail: 'look-up', insert: 'chief' },
];

describe('what is proposed in a cell', () => {
  it('is everything when the cell is opened as it is', () => {
    expect(fitting('"soon"', '"soon"', options)).toHaveLength(3);
    expect(fitting('', 'x', options)).toHaveLength(3);
  });
  it('is what begins with the words, then what holds them', () => {
    expect(fitting('so', 's', options).map((o) => o.label)).toEqual(['Soon']);
    expect(fitting('risk', 'r', options).map((o) => o.label)).toEqual(['Sailing at risk']);
    expect(fitting('S', 'S', options).map((o) => o.label)).toEqual(['Sailing at risk', 'Soon']);
  });
  it('is nothing while a formula is typed', () => {
    expect(fitting('> 4', '>', options)).toEqual([]);
    expect(fitting('"so', '"', options)).toEqual([]);
  });
});
