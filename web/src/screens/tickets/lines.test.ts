import { expect, test } from 'vitest';
import { asked, filterable, readLines, writeLines } from './lines';

const TYPES = [
  {
    key: 'fault',
    title: 'Fault',
    kind: 'ticket' as const,
    states: [{ key: 'logged', label: 'Logged', open: true }],
    fields: [
      { key: 'impact', label: 'Impact', type: 'choice', options: [{ key: 'a', label: 'A' }] },
      { key: 'details', label: 'D', type: 'long_text' },
    ],
  },
  {
    key: 'request',
    title: 'Request',
    kind: 'ticket' as const,
    states: [{ key: 'asked', label: 'Asked', open: true }],
    fields: [{ key: 'impact', label: 'Impact', type: 'choice', options: [{ key: 'b', label: 'B' }] }],
  },
];

test('lines are read from an address and written back', () => {
  const search = new URLSearchParams('type=fault&filter[state]=open&filter[impact]=');
  expect(readLines(search)).toEqual([
    { field: 'state', is: 'any', of: ['open'] },
    { field: 'impact', is: 'empty', of: [] },
  ]);
  const next = writeLines(search, readLines(search));
  expect([...next.keys()]).toEqual(['type', 'lines']);
  expect(readLines(next)).toEqual(readLines(search));
});

test('an address that was cut off filters nothing', () => {
  expect(readLines(new URLSearchParams('lines=[{"field":"a'))).toEqual([]);
  expect(readLines(new URLSearchParams('lines={"a":1}'))).toEqual([]);
});

test('a line that is not whole yet is not asked', () => {
  const search = writeLines(new URLSearchParams('columns=title'), [{ field: 'impact', is: 'any', of: [] }]);
  expect(asked(search).toString()).toBe('');
});

test('options of fields that several types have come together', () => {
  const impact = filterable(TYPES, '').find((f) => f.key === 'impact');
  expect(impact?.options?.map((o) => o.key)).toEqual(['a', 'b']);
  expect(filterable(TYPES, 'fault').some((f) => f.key === 'details')).toBe(false);
});
