import { expect, it } from 'vitest';
import type { SampleTree } from '../api/trees';
import { accept } from './accept';

const sample: SampleTree = {
  key: 's',
  title: 'S',
  proves: 'act',
  steps: [
    { create: 'fault', as: 'F1', expect: { F1: { priority: 'urgent', team: 'deck' }, acted: ['a', 'b'] } },
    { change: 'F1', expect: { refused: true } },
  ],
};

it('takes what came out and leaves the rest', () => {
  const next = accept(
    sample,
    0,
    [
      { record: 'F1', field: 'priority', expected: 'urgent', actual: 'soon' },
      { record: null, field: 'acted', expected: 'a', actual: 'looked' },
    ],
    'ines',
    '2027-03-04T09:00:00Z',
  );
  expect(next.steps[0]?.accepted).toEqual({ by: 'ines', at: '2027-03-04T09:00:00Z' });
  expect(next.steps[0]?.expect).toEqual({ F1: { priority: 'soon', team: 'deck' }, acted: ['b'] });
  expect(next.steps[1]).toBe(sample.steps[1]);
  expect(sample.steps[0]?.expect?.acted).toEqual(['a', 'b']);
});

it('drops an expectation that has become the usual', () => {
  const next = accept(sample, 1, [{ record: null, field: 'refused', expected: true, actual: false }], 'ines');
  expect(next.steps[1]?.expect).toEqual({});
});
