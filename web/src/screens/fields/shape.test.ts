import { expect, test } from 'vitest';
import { asType, moved, withSetting } from './shape';

test('what means nothing for another type goes', () => {
  const field = {
    key: 'spot',
    label: 'Spot',
    type: 'two_step_choice',
    required: true,
    options: [{ key: 'a', label: 'A', children: [{ key: 'b', label: 'B' }] }],
  };
  expect(asType(field, 'choice', 'vessel').options).toEqual([{ key: 'b', label: 'B' }]);
  expect(asType(field, 'text', 'vessel')).toEqual({ key: 'spot', label: 'Spot', type: 'text', required: true });
  expect(asType(field, 'reference', 'vessel').to).toBe('vessel');
  expect(asType(field, 'derived', 'vessel')).toEqual({ key: 'spot', label: 'Spot', type: 'derived', formula: 'null' });
});

test('a setting that says nothing is left out', () => {
  const field = { key: 'a', label: 'A', type: 'number', min: 3, required: true };
  expect(withSetting(field, 'min', undefined)).toEqual({ key: 'a', label: 'A', type: 'number', required: true });
  expect(withSetting(field, 'min', 0).min).toBe(0);
  expect('required' in withSetting(field, 'required', false)).toBe(false);
  expect(withSetting(field, 'active', true).active).toBe(true);
});

test('an entry moves by places and stays within the list', () => {
  expect(moved(['a', 'b', 'c'], 0, 1)).toEqual(['b', 'a', 'c']);
  expect(moved(['a', 'b', 'c'], 0, -1)).toEqual(['a', 'b', 'c']);
  expect(moved(['a', 'b', 'c'], 1, 9)).toEqual(['a', 'c', 'b']);
});
