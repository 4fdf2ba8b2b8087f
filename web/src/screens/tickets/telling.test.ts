import { expect, test } from 'vitest';
import { telling } from './lines';

test('a list shows the fields of a type that tell its tickets apart, whatever they are called', () => {
  const field = (key: string, type: string, more = {}) => ({ key, label: key, type, ...more });
  const fields = [
    field('assignee', 'person', { builtIn: true }),
    field('title', 'text'),
    field('berth', 'reference'),
    field('urgency', 'choice', { active: false }),
    field('kind_of', 'choice'),
    field('done', 'percent'),
    field('also_done', 'percent'),
    field('weight', 'choice'),
    field('colour', 'choice'),
  ];
  expect(telling(fields).map((f) => f.key)).toEqual(['kind_of', 'done', 'weight']);
  expect(telling(fields.slice(0, 5)).map((f) => f.key)).toEqual(['berth', 'kind_of']);
});
