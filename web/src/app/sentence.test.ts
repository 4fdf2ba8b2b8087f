import { expect, it } from 'vitest';
import type { RuleTree, TypeTree } from '../api/trees';
import { Lexicon } from './lexicon';
import { reading, sayCondition, sentence } from './sentence';

const fault: TypeTree = {
  key: 'fault',
  title: 'Fault',
  kind: 'ticket',
  states: [
    { key: 'logged', label: 'Logged', open: true },
    { key: 'closed', label: 'Closed', open: false },
  ],
  fields: [
    { key: 'impact', label: 'Impact', type: 'choice', options: [{ key: 'sailing', label: 'The next sailing' }] },
    { key: 'priority', label: 'Priority', type: 'choice', options: [{ key: 'urgent', label: 'Urgent' }] },
  ],
};
const lexicon = new Lexicon(
  [fault],
  [{ key: 'ines', name: 'Ines Calder', email: null, active: true, away: false }],
  [],
);
const rule: RuleTree = {
  key: 'r',
  title: 'R',
  on: 'fault',
  starts: ['created', { changed: ['impact'], to: '"sailing"' }],
  only_if: 'state != "closed"',
  checks: [{ of: 'impact' }],
  changes: [{ set: 'priority' }, { set: 'assignee', when: 'empty' }],
  rows: [{ if: ['-'], then: ['"urgent"', '"ines"'] }],
};

it('a rule reads as a sentence', () => {
  expect(
    sentence(rule, lexicon)
      .map((piece) => piece.text)
      .join(''),
  ).toBe(
    'When a fault: it is created or its impact changes to “The next sailing”, and only if state is not closed: set its priority and set its assignee if it has none, by impact.',
  );
  expect(reading(rule, lexicon)).toBe(
    'fault, when it is created or its impact changes to “The next sailing”, if state is not closed',
  );
});

it('values are said by their names', () => {
  expect(lexicon.say('ines', lexicon.field('fault', 'assignee'))).toBe('Ines Calder');
  expect(lexicon.say('urgent', lexicon.field('fault', 'priority'))).toBe('Urgent');
  expect(lexicon.say(null)).toBe('empty');
  expect(lexicon.sayChange(['a'], ['a', 'b'])).toBe('+ b');
  expect(lexicon.sayChange(null, 'urgent', lexicon.field('fault', 'priority'))).toBe('→ Urgent');
});

it('a condition reads in words as far as it is made of common tests', () => {
  const say = (formula: string) => sayCondition(formula, rule, lexicon);
  expect(say('open(state)')).toBe('state is open');
  expect(say('not(open(state)) and impact = "sailing"')).toBe('state is not open and impact is the next sailing');
  expect(say('state != "closed" and impact in ("sailing", "other")')).toBe(
    'state is not closed and impact is the next sailing or “other”',
  );
  expect(say('assignee = null or (tags != null and list contains(tags, "x"))')).toBe(
    'assignee is empty or (tags is filled and tags has “x”)',
  );
  expect(say('not(state = "closed") and changed("impact")')).toBe('state is not closed and impact has changed');
  expect(say('assignee.team.name = "Deck"')).toBe('assignee’s team’s name is “Deck”');
  expect(say('some t in tags satisfies t = "x"')).toBe('some t in tags satisfies t = "x"');
  expect(say('count(tags) > 2 and state = "closed"')).toBe('count(tags) > 2 and state is closed');
  expect(say('unknown = 1')).toBe('unknown = 1');
  expect(say('state =')).toBe('state =');
});
