import { describe, expect, it } from 'vitest';
import { fieldsOf, fieldsWritten, quote, quoted, type RuleTree, type TypeTree } from './trees';

const rule: RuleTree = {
  key: 'r',
  title: 'R',
  on: 'fault',
  starts: ['created', { changed: ['impact'] }],
  only_if: 'state != "closed"',
  look_ups: [{ name: 'chief', value: 'vessel.superintendent' }],
  checks: [{ of: 'hours_down' }],
  changes: [{ set: 'priority' }, { add: 'tags' }, { clear: 'claim' }],
  rows: [{ if: ['> limit'], then: ['"urgent"', 'tag(part.code)', 'true'] }],
};

describe('what a rule touches', () => {
  it('writes what its changes name', () => {
    expect(fieldsWritten(rule)).toEqual(['priority', 'tags', 'claim']);
  });
});

describe('texts in formulas', () => {
  it('are quoted and unquoted', () => {
    for (const text of ['plain', 'with "quotes"', 'back\\slash']) expect(quoted(quote(text))).toBe(text);
    expect(quoted('"a", "b"')).toBeNull();
    expect(quoted('chief')).toBeNull();
  });
});

describe('fields', () => {
  it('of a ticket include what every ticket has', () => {
    const type: TypeTree = {
      key: 't',
      title: 'T',
      kind: 'ticket',
      fields: [{ key: 'title', label: 'Title', type: 'text' }],
    };
    expect(fieldsOf(type).map((f) => f.key)).toEqual([
      'state',
      'assignee',
      'team',
      'tags',
      'requester',
      'created_at',
      'created_by',
      'changed_at',
      'title',
    ]);
    expect(fieldsOf({ ...type, kind: 'register' }).map((f) => f.key)).toEqual(['title']);
  });
});
