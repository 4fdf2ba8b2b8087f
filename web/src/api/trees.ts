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
  moves?: { from: string; to: string[] }[];
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

export type StartTree = 'created' | { changed: string[]; from?: Cell; to?: Cell };

export interface LookUpTree {
  name: string;
  value: Cell;
  none?: string | null | { use: Cell };
}

export interface ChangeTree {
  set?: string;
  add?: string;
  clear?: string;
  when?: string;
}

export interface RuleTree {
  key: string;
  title: string;
  purpose?: string;
  questions?: { ask: string; answer?: string }[];
  owner?: string;
  on: string | string[];
  enabled?: boolean;
  starts: StartTree[];
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
  [record: string]: unknown;
}

export interface StepTree {
  create?: string;
  change?: string;
  clock?: string;
  as?: string;
  by?: string;
  repeat?: number;
  with?: Values;
  expect?: ExpectTree;
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
}

export const EXPECT_WORDS = ['acted', 'still', 'problems', 'refused'];

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

/** Texts of more than a line, which have a place of their own. */
export const isLong = (field: FieldTree): boolean => field.type === 'long_text' || field.type === 'rich_text';

export const typesOf = (rule: { on: string | string[] }): string[] => (Array.isArray(rule.on) ? rule.on : [rule.on]);

export const changeKind = (change: ChangeTree): 'set' | 'add' | 'clear' =>
  change.set !== undefined ? 'set' : change.add !== undefined ? 'add' : 'clear';

export const changeField = (change: ChangeTree): string => change.set ?? change.add ?? change.clear ?? '';

export const fieldsWritten = (rule: RuleTree): string[] => [...new Set(rule.changes.map(changeField))];

/** The text in quotes when the cell is nothing but that, else null. */
export function quoted(cell: string): string | null {
  const match = /^\s*"((?:[^"\\]|\\.)*)"\s*$/.exec(cell);
  return match ? (match[1] ?? '').replace(/\\(.)/g, '$1') : null;
}

export const quote = (text: string): string => `"${text.replace(/[\\"]/g, '\\$&').replace(/\n/g, '\\n')}"`;
