import type { FieldTree } from '../../api/trees';

export const TYPES: [string, string][] = [
  ['text', 'text, one line'],
  ['long_text', 'long text'],
  ['rich_text', 'rich text'],
  ['number', 'number'],
  ['percent', 'percent'],
  ['yes_no', 'yes or no'],
  ['date', 'date'],
  ['date_time', 'date and time'],
  ['duration', 'duration'],
  ['choice', 'choice'],
  ['choices', 'several choices'],
  ['two_step_choice', 'two-step choice'],
  ['tags', 'tags'],
  ['person', 'person'],
  ['people', 'people'],
  ['team', 'team'],
  ['reference', 'reference'],
  ['references', 'references'],
  ['derived', 'derived, by a formula'],
  ['tally', 'tally of other records'],
];

/** Settings that belong to some types only. */
const ONLY: Record<string, string[]> = {
  options: ['choice', 'choices', 'two_step_choice'],
  to: ['reference', 'references'],
  min: ['number', 'percent'],
  max: ['number', 'percent'],
  decimals: ['number', 'percent'],
  pattern: ['text', 'long_text'],
  bands: ['percent'],
  formula: ['derived'],
  of: ['tally'],
  via: ['tally'],
  measure: ['tally'],
  field: ['tally'],
  where: ['tally'],
  include: ['tally'],
  tree: ['tally'],
};

export const takes = (type: string, setting: string): boolean => ONLY[setting]?.includes(type) ?? true;

/** The field as another type: what means nothing for it goes, and what it cannot do without is begun. */
export function asType(field: FieldTree, type: string, firstType: string): FieldTree {
  const kept = Object.fromEntries(Object.entries(field).filter(([key]) => takes(type, key))) as unknown as FieldTree;
  const next: FieldTree = { ...kept, type };
  const computed = type === 'derived' || type === 'tally';
  if (computed) {
    delete next.required;
    delete next.default;
    delete next.question;
  }
  if (takes(type, 'options') && type !== 'two_step_choice' && next.options)
    next.options = next.options.flatMap((o) => (o.children ? o.children : [o]));
  if (takes(type, 'options') && !next.options?.length) next.options = [{ key: 'first', label: 'First' }];
  if (takes(type, 'to')) next.to = field.to ?? firstType;
  if (type === 'derived') next.formula = field.formula ?? 'null';
  return next;
}

/** The field with a setting, or without it when the value says nothing. */
export function withSetting(field: FieldTree, key: keyof FieldTree, value: unknown): FieldTree {
  const { [key]: _, ...rest } = field;
  const isNothing =
    value === undefined || value === '' || value === false || (Array.isArray(value) && value.length === 0);
  return (isNothing ? rest : { ...rest, [key]: value }) as FieldTree;
}

/** Moves one entry of a list by some places. */
export function moved<T>(list: T[], from: number, by: number): T[] {
  const to = Math.max(0, Math.min(list.length - 1, from + by));
  const next = [...list];
  const [one] = next.splice(from, 1);
  if (one !== undefined) next.splice(to, 0, one);
  return next;
}
