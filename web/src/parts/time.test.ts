import { expect, it } from 'vitest';
import { readDuration, sayDate, sayDuration, sayMoment, toLocal } from './time';

it('moments are shown on the desk’s clock', () => {
  expect(toLocal('2027-07-04T08:00:00Z', 'Europe/Lisbon')).toBe('2027-07-04T09:00');
  expect(toLocal('2027-07-04T09:30', 'Europe/Lisbon')).toBe('2027-07-04T09:30');
  expect(toLocal('nonsense', 'Europe/Lisbon')).toBe('');
  expect(sayMoment('2027-01-04T00:05:00Z', 'Europe/Lisbon')).toBe('Mon 4 Jan 2027, 00:05');
  expect(sayDate('2027-03-04')).toBe('Thu 4 Mar 2027');
  expect(sayDate('someday')).toBe('someday');
});

it('durations are written and said as people do', () => {
  expect(readDuration('1 d 12 h')).toBe('P1DT12H');
  expect(readDuration('90min')).toBe('PT90M');
  expect(readDuration('2 months')).toBe('P2M');
  expect(readDuration('1,5 s')).toBe('PT1.5S');
  expect(readDuration('P3D')).toBe('P3D');
  expect(readDuration('three days')).toBe('three days');
  expect(sayDuration('P1DT12H')).toBe('1 d 12 h');
  expect(sayDuration('-PT90M')).toBe('−90 min');
  expect(sayDuration('PT0S')).toBe('0 s');
  expect(sayDuration('soon')).toBe('soon');
});
