import type { ConditionPart } from '../../api/client';
import type { FieldTree } from '../../api/trees';
import { partsOf, resolve, type World } from '../complete';

/** Every test of a line in words, and how many values it takes; null for any number. */
export const TESTS: Record<string, { words: string; values: number | null }> = {
  is: { words: 'is', values: 1 },
  is_not: { words: 'is not', values: 1 },
  one_of: { words: 'is one of', values: null },
  none_of: { words: 'is none of', values: null },
  above: { words: 'is above', values: 1 },
  at_least: { words: 'is at least', values: 1 },
  below: { words: 'is below', values: 1 },
  at_most: { words: 'is at most', values: 1 },
  between: { words: 'is between', values: 2 },
  not_between: { words: 'is not between', values: 2 },
  open: { words: 'is open', values: 0 },
  not_open: { words: 'is not open', values: 0 },
  yes: { words: 'is yes', values: 0 },
  no: { words: 'is no', values: 0 },
  has: { words: 'has', values: 1 },
  has_not: { words: 'does not have', values: 1 },
  contains: { words: 'contains', values: 1 },
  contains_not: { words: 'does not contain', values: 1 },
  starts_with: { words: 'starts with', values: 1 },
  ends_with: { words: 'ends with', values: 1 },
  matches: { words: 'matches', values: 1 },
  empty: { words: 'is empty', values: 0 },
  filled: { words: 'is filled', values: 0 },
  changed: { words: 'has changed', values: 0 },
};

const FITTING: Record<string, string[]> = {
  pick: ['is', 'is_not', 'one_of', 'none_of'],
  state: ['is', 'is_not', 'one_of', 'none_of', 'open', 'not_open'],
  order: ['is', 'is_not', 'above', 'at_least', 'below', 'at_most', 'between', 'not_between'],
  yes_no: ['yes', 'no'],
  list: ['has', 'has_not'],
  text: ['is', 'is_not', 'contains', 'contains_not', 'starts_with', 'ends_with', 'matches', 'one_of', 'none_of'],
};

const KIND: Record<string, keyof typeof FITTING> = {
  choice: 'pick',
  state: 'state',
  person: 'pick',
  team: 'pick',
  reference: 'pick',
  number: 'order',
  percent: 'order',
  date: 'order',
  date_time: 'order',
  duration: 'order',
  tally: 'order',
  yes_no: 'yes_no',
  tags: 'list',
  choices: 'list',
  people: 'list',
  references: 'list',
};

/** The tests that make sense for a field; a formula on the left may be anything. */
export function testsFor(field: FieldTree | undefined, isOwn: boolean): string[] {
  const fitting = field
    ? (FITTING[KIND[field.type] ?? 'text'] ?? [])
    : Object.keys(TESTS).filter((t) => t !== 'changed');
  return [...new Set([...fitting, 'empty', 'filled', ...(field && isOwn ? ['changed'] : [])])];
}

/** Whether a line says enough to count. */
export function isComplete(part: ConditionPart): boolean {
  if (part.join !== undefined) return (part.parts ?? []).some(isComplete);
  if (part.formula !== undefined) return part.formula.trim() !== '';
  const needs = TESTS[part.test ?? '']?.values ?? 1;
  const values = (part.values ?? []).filter((value) => value.trim() !== '');
  return (part.of ?? '') !== '' && values.length >= needs;
}

/** Only what counts, without the places that reading gave. */
export function counting(part: ConditionPart): ConditionPart {
  if (part.join !== undefined) return { join: part.join, parts: (part.parts ?? []).filter(isComplete).map(counting) };
  if (part.formula !== undefined) return { formula: part.formula };
  const most = TESTS[part.test ?? '']?.values;
  return {
    of: part.of ?? '',
    test: part.test ?? 'is',
    values: (part.values ?? []).filter((value) => value.trim() !== '').slice(0, most ?? undefined),
  };
}

/** A part of a group's tree by its place: [] is the group itself. */
export function replaced(part: ConditionPart, at: number[], by: ConditionPart | null): ConditionPart {
  const [first, ...rest] = at;
  if (first === undefined) return by ?? part;
  const parts = part.parts ?? [];
  return {
    ...part,
    parts: parts.flatMap((old, i) => {
      if (i !== first) return [old];
      if (rest.length === 0) return by ? [by] : [];
      return [replaced(old, rest, by)];
    }),
  };
}

/** Another test for a line: its values go along as far as the new test takes them. */
export function withTest(line: ConditionPart, test: string): ConditionPart {
  const most = TESTS[test]?.values;
  return { ...line, test, values: (line.values ?? []).slice(0, most ?? undefined) };
}

export interface Leaf {
  at: number[];
  part: ConditionPart;
}

export function leaves(part: ConditionPart, at: number[] = []): Leaf[] {
  return part.join === undefined ? [{ at, part }] : (part.parts ?? []).flatMap((p, i) => leaves(p, [...at, i]));
}

export interface PathGroup {
  title: string;
  fields: { path: string; field: FieldTree }[];
}

/** Everything a line can look at: the record's own fields, look-ups, and one step over references, people and teams. */
export function pathGroups(world: World, own: string): PathGroup[] {
  const groups: PathGroup[] = [{ title: own, fields: world.fields.map((field) => ({ path: field.key, field })) }];
  const lookUps = world.lookUps.map((l) => ({
    path: l.name,
    field: resolve(l.name, world) ?? { key: l.name, label: l.name, type: 'text' },
  }));
  if (lookUps.length > 0) groups.push({ title: 'Look-ups', fields: lookUps });
  for (const { path, field } of [...(groups[0]?.fields ?? []), ...lookUps]) {
    const parts = partsOf(field, world.lexicon).map((part) => ({ path: `${path}.${part.key}`, field: part }));
    if (parts.length > 0) groups.push({ title: `Its ${field.label.toLowerCase()}’s`, fields: parts });
  }
  return groups;
}
