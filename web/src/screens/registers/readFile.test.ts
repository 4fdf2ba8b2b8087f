import { expect, test } from 'vitest';
import { plain } from './readFile';

test('cells of a sheet are read as they were seen', () => {
  expect(plain(new Date(Date.UTC(2027, 2, 4)))).toBe('2027-03-04');
  expect(plain(new Date(Date.UTC(2027, 2, 4, 9, 5)))).toBe('2027-03-04T09:05:00');
  expect(plain({ formula: 'A1+1', result: 7 })).toBe(7);
  expect(plain({ text: 'a link', hyperlink: 'x' })).toBe('a link');
  expect(plain({ richText: [{ text: 'a' }, { text: 'b' }] })).toBe('ab');
  expect(plain('  ')).toBe(null);
  expect(plain({ error: '#REF!' })).toBe(null);
});
