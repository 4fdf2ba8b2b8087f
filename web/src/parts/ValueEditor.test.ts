import { expect, it } from 'vitest';
import { readValue } from './ValueEditor';

const field = (type: string) => ({ key: 'f', label: 'F', type });

it('what is typed becomes the kind of value that the field holds', () => {
  expect(readValue('3,5', field('number'))).toBe(3.5);
  expect(readValue('', field('number'))).toBeNull();
  expect(readValue('many', field('number'))).toBe('many');
  expect(readValue('a, b  c', field('tags'))).toEqual(['a', 'b', 'c']);
  expect(readValue('  ', field('text'))).toBeNull();
});
