import type { FieldTree, TypeTree } from '../../api/trees';
import { fieldsOf } from '../../api/trees';

/** One line of a filter, as the address of the list holds it. */
export interface Line {
  field: string;
  is: Test;
  of: string[];
}

export type Test = 'any' | 'none' | 'empty' | 'filled' | 'words' | 'least' | 'most' | 'within';

const EXACT = [
  'choice',
  'choices',
  'two_step_choice',
  'state',
  'person',
  'people',
  'team',
  'yes_no',
  'reference',
  'references',
  'tags',
];
const ORDERED = ['number', 'percent', 'date', 'date_time'];

/** What a line can ask of a field, with its words. */
export function testsOf(field: FieldTree): [Test, string][] {
  const empty: [Test, string][] = [
    ['empty', 'is empty'],
    ['filled', 'is filled'],
  ];
  if (field.type === 'state')
    return [
      ['any', 'is'],
      ['none', 'is not'],
    ];
  if (EXACT.includes(field.type)) return [['any', 'is'], ['none', 'is not'], ...empty];
  if (field.type === 'date' || field.type === 'date_time')
    return [['within', 'within the last days'], ['least', 'not before'], ['most', 'not after'], ...empty];
  if (ORDERED.includes(field.type) || field.type === 'tally')
    return [['least', 'is at least'], ['most', 'is at most'], ...empty];
  return [['words', 'has the words'], ['any', 'is'], ...empty];
}

/** Fields that a list of a type, or of all ticket types, can be filtered by. */
export function filterable(types: TypeTree[], type: string): FieldTree[] {
  const found = new Map<string, FieldTree>();
  for (const each of types) {
    if (each.kind !== 'ticket' || (type && each.key !== type)) continue;
    for (const field of fieldsOf(each)) {
      const known = found.get(field.key);
      if (field.type === 'long_text' || field.type === 'rich_text') continue;
      if (!known) found.set(field.key, field);
      else if (field.options) {
        const options = [...(known.options ?? [])];
        for (const option of field.options) if (!options.some((o) => o.key === option.key)) options.push(option);
        found.set(field.key, { ...known, options });
      }
    }
  }
  return [...found.values()];
}

/** What tells tickets apart best comes first, with how many of a kind a list shows at most. */
const TELLING: [kind: string, most: number][] = [
  ['choice', 2],
  ['percent', 1],
  ['reference', 2],
  ['number', 1],
];

/** Three of the type's own fields that tell one ticket from another at a glance, in the order they are defined. */
export function telling(fields: FieldTree[]): FieldTree[] {
  const own = fields.filter((f) => !f.builtIn && f.active !== false);
  const best = TELLING.flatMap(([kind, most]) => own.filter((f) => f.type === kind).slice(0, most)).slice(0, 3);
  return own.filter((f) => best.includes(f));
}

/** The lines of an address; links from elsewhere may name a field and a value instead. */
export function readLines(search: URLSearchParams): Line[] {
  const lines: Line[] = [];
  try {
    const given: unknown = JSON.parse(search.get('lines') ?? '[]');
    if (Array.isArray(given))
      for (const line of given)
        if (line && typeof line.field === 'string' && typeof line.is === 'string')
          lines.push({ field: line.field, is: line.is, of: Array.isArray(line.of) ? line.of.map(String) : [] });
  } catch {
    // an address that was cut off filters nothing
  }
  for (const [key, value] of search)
    if (key.startsWith('filter['))
      lines.push({ field: key.slice(7, -1), is: value === '' ? 'empty' : 'any', of: value === '' ? [] : [value] });
  return lines;
}

/** A line that can be asked: its test has what it needs. */
export const isWhole = (line: Line): boolean =>
  line.is === 'empty' || line.is === 'filled' || line.of.some((v) => v !== '');

export function writeLines(search: URLSearchParams, lines: Line[]): URLSearchParams {
  const next = new URLSearchParams(search);
  for (const key of [...next.keys()]) if (key.startsWith('filter[')) next.delete(key);
  if (lines.length === 0) next.delete('lines');
  else next.set('lines', JSON.stringify(lines));
  return next;
}

/** What the server is asked: whole lines only. */
export function asked(search: URLSearchParams): URLSearchParams {
  const query = new URLSearchParams();
  for (const key of ['type', 'q', 'sort']) {
    const value = search.get(key);
    if (value) query.set(key, value);
  }
  const lines = readLines(search).filter(isWhole);
  if (lines.length > 0) query.set('lines', JSON.stringify(lines));
  return query;
}
