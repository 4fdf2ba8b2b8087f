// The trees of the open format, as the screens use them.

export type Values = Record<string, unknown>;

export interface OptionTree {
  key: string;
  label: string;
  active?: boolean;
  children?: OptionTree[];
}

export interface FieldTree {
  key: string;
  label: string;
  question?: string;
  active?: boolean;
  requester?: 'shown' | 'read_only' | 'hidden';
  type: string;
  options?: OptionTree[];
  to?: string;
  required?: boolean;
  default?: string | number | boolean;
  min?: number;
  max?: number;
  decimals?: number;
  pattern?: string;
  formula?: string | number | boolean;
  of?: string;
  via?: string;
  measure?: string;
  field?: string;
  where?: string | number | boolean;
  include?: string;
  tree?: string;
  bands?: number[];
  builtIn?: boolean;
  fixed?: boolean;
}

export interface TypeTree {
  key: string;
  title: string;
  kind: 'register' | 'ticket';
  name_field?: string;
  short?: string;
  states?: { key: string; label: string; open: boolean }[];
  moves?: { from: string; to: string[]; roles?: string[] }[];
  fields: FieldTree[];
}

export type Cell = string | number | boolean;

export interface RowTree {
  if: Cell[];
  then: Cell[];
}

export interface TableTree {
  key: string;
  title: string;
  inputs: { key: string; label?: string; field?: string }[];
  outputs: { key: string; label?: string; type?: string; field?: string; values?: Cell[] }[];
  hit?: string;
  rows: RowTree[];
  default?: Cell[];
}

export interface ByHandTree {
  roles?: string[];
  ask?: FieldTree[];
}

/** One of its kinds; `changed` goes with `related` too. */
export interface StartParts {
  changed?: string[];
  from?: Cell;
  to?: Cell;
  received?: 'message';
  answered?: string;
  at?: string;
  for?: Cell;
  by_hand?: ByHandTree;
  related?: string;
}

export type StartTree = 'created' | 'deleted' | StartParts;

export type StartKind = 'created' | 'changed' | 'deleted' | 'received' | 'answered' | 'at' | 'by_hand' | 'related';

export const startKind = (start: StartTree): StartKind => {
  if (typeof start === 'string') return start;
  for (const kind of ['related', 'changed', 'received', 'answered', 'at'] as const)
    if (start[kind] !== undefined) return kind;
  return 'by_hand';
};

export const MEASURES = ['count', 'sum', 'average', 'min', 'max', 'distinct'] as const;

export interface LookUpTree {
  name: string;
  value?: Cell;
  first?: string;
  all?: string;
  count?: string;
  sum?: string;
  average?: string;
  min?: string;
  max?: string;
  distinct?: string;
  field?: string;
  where?: Cell;
  order?: string;
  none?: string | null | { use: Cell };
  several?: string;
}

export type LookUpKind = 'value' | 'first' | 'all' | (typeof MEASURES)[number];

export const lookUpKind = (l: LookUpTree): LookUpKind =>
  (['first', 'all', ...MEASURES] as const).find((kind) => l[kind] !== undefined) ?? 'value';

/** The type of the records that a look-up goes over; of a value none. */
export const lookUpType = (l: LookUpTree): string | undefined => {
  const kind = lookUpKind(l);
  return kind === 'value' ? undefined : l[kind];
};

export const FIELD_CHANGES = ['set', 'clear', 'add', 'remove', 'raise', 'prefix', 'suffix', 'assign'] as const;

export const OTHER_CHANGES = ['note', 'message', 'notify', 'call', 'create', 'refuse'] as const;

export type ChangeKind = (typeof FIELD_CHANGES)[number] | (typeof OTHER_CHANGES)[number];

export type ChangeTree = { [kind in ChangeKind]?: Cell } & {
  when?: string;
  of?: string;
  team?: string;
  to?: Cell;
  subject?: Cell;
  endpoint?: string;
  method?: string;
  headers?: Record<string, string>;
};

export interface RuleTree {
  key: string;
  title: string;
  purpose?: string;
  questions?: { ask: string; answer?: string }[];
  owner?: string;
  on: string | string[];
  enabled?: boolean;
  starts: StartTree[];
  repeat?: 'each' | 'becomes_true' | 'once';
  only_if?: Cell;
  look_ups?: LookUpTree[];
  decide?: 'first' | 'every';
  checks?: { of: Cell }[];
  changes: ChangeTree[];
  rows: RowTree[];
}

export interface GuardTree {
  key: string;
  on: string | string[];
  field: string;
  effect: 'read_only' | 'required' | 'hidden' | 'choices';
  when?: Cell;
  only?: Cell;
  on_parent_change?: 'clear' | 'keep' | 'refuse';
  reason?: string;
}

export interface MirrorTree {
  key: string;
  on: string | string[];
  field: string;
  from: Cell;
  mode?: 'always' | 'fill_empty' | 'on_change';
}

export interface ExpectTree {
  acted?: string[];
  still?: string[];
  problems?: string[];
  refused?: boolean | string;
  unchanged?: string[];
  messages?: Values[];
  calls?: Values[];
  created?: Values[];
  notes?: Values[];
  notices?: Values[];
  [record: string]: unknown;
}

export interface StepTree {
  create?: string;
  change?: string;
  delete?: string;
  clock?: string;
  receive?: { from: string; subject?: string; text?: string; html?: string; about?: string; opens?: string };
  by_hand?: string;
  on?: string;
  answer?: { call: string; status?: number; body?: unknown };
  as?: string;
  by?: string;
  repeat?: number;
  with?: Values;
  expect?: ExpectTree;
  /** Who took what came out as what is expected, last, and when. */
  accepted?: { by: string; at: string };
}

/** One story told in several lines: an input is a field of the last step or ID.field of a given record, an outcome ID.field. */
export interface VariantsTree {
  inputs: string[];
  outcomes: string[];
  lines: { in: unknown[]; out: unknown[]; title?: string }[];
}

export interface SampleTree {
  key: string;
  title: string;
  proves: 'act' | 'stay_still' | 'missing' | 'several' | 'load';
  rules?: string[];
  taken_from?: string;
  clock?: string;
  given?: Record<string, ({ id: string } & Values)[]>;
  steps: StepTree[];
  variants?: VariantsTree;
}

export const DONE_WORDS = ['messages', 'calls', 'created', 'notes', 'notices'] as const;

export const EXPECT_WORDS: string[] = ['acted', 'still', 'problems', 'refused', 'unchanged', ...DONE_WORDS];

/** The fields that every ticket has, beside those of its type. */
export function fieldsOf(type: TypeTree | undefined): FieldTree[] {
  if (!type) return [];
  if (type.kind === 'register') return type.fields;
  const builtIn = (key: string, label: string, kind: string, more: Partial<FieldTree> = {}): FieldTree => ({
    key,
    label,
    type: kind,
    builtIn: true,
    ...more,
  });
  return [
    builtIn('state', 'State', 'state', { options: type.states }),
    builtIn('assignee', 'Assignee', 'person'),
    builtIn('team', 'Team', 'team'),
    builtIn('tags', 'Tags', 'tags'),
    builtIn('requester', 'Requester', 'person'),
    builtIn('created_at', 'Created', 'date_time', { fixed: true }),
    builtIn('created_by', 'Created by', 'person', { fixed: true }),
    builtIn('changed_at', 'Changed', 'date_time', { fixed: true }),
    ...type.fields,
  ];
}

/** Fields that people and rules can set. */
export const settable = (type: TypeTree | undefined): FieldTree[] =>
  fieldsOf(type).filter((f) => !f.fixed && f.type !== 'derived' && f.type !== 'tally');

/** Fields in use: those that are retired are shown only where a record still holds them. */
export const inUse = (type: TypeTree | undefined): FieldTree[] => settable(type).filter((f) => f.active !== false);

/** Texts of more than a line, which have a place of their own. */
export const isLong = (field: FieldTree): boolean => field.type === 'long_text' || field.type === 'rich_text';

export const typesOf = (rule: { on: string | string[] }): string[] => (Array.isArray(rule.on) ? rule.on : [rule.on]);

export const changeKind = (change: ChangeTree): ChangeKind =>
  [...FIELD_CHANGES, ...OTHER_CHANGES].find((kind) => change[kind] !== undefined) ?? 'set';

export const isFieldChange = (change: ChangeTree): boolean =>
  (FIELD_CHANGES as readonly string[]).includes(changeKind(change));

/** The field that it changes; empty for what changes none. */
export const changeField = (change: ChangeTree): string => {
  const kind = changeKind(change);
  return kind === 'assign' ? 'assignee' : isFieldChange(change) ? String(change[kind] ?? '') : '';
};

/** Fields of the record that the rule runs on; those of others are not among them. */
export const fieldsWritten = (rule: RuleTree): string[] => [
  ...new Set(rule.changes.filter((c) => isFieldChange(c) && c.of === undefined).map(changeField)),
];

/** The type whose fields a change writes: the rule's first, or that of the look-up whose records it changes. */
export function changedType(change: ChangeTree, rule: RuleTree): string {
  const own = typesOf(rule)[0] ?? '';
  if (change.of === undefined) return own;
  const lookUp = (rule.look_ups ?? []).find((l) => l.name === change.of);
  return (lookUp && lookUpType(lookUp)) ?? own;
}

/** The text in quotes when the cell is nothing but that, else null. */
export function quoted(cell: string): string | null {
  const match = /^\s*"((?:[^"\\]|\\.)*)"\s*$/.exec(cell);
  return match ? (match[1] ?? '').replace(/\\(.)/g, '$1') : null;
}

export const quote = (text: string): string => `"${text.replace(/[\\"]/g, '\\$&').replace(/\n/g, '\\n')}"`;
