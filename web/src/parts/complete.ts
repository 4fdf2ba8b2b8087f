import type { Probe } from '../api/client';
import { type FieldTree, fieldsOf, quote } from '../api/trees';
import type { Lexicon } from '../app/lexicon';
import type { Suggestion } from './CellEditor';

export interface FunctionHelp {
  name: string;
  parameters: string[];
  required: number;
  variadic: boolean;
  examples: string[];
}

/** What a formula may name at some place. */
export interface World {
  fields: FieldTree[];
  /** With a formula; or the type of the records that it holds. */
  lookUps: { name: string; value: string; to?: string }[];
  tables: { key: string; title: string; inputs: string[] }[];
  functions: FunctionHelp[];
  lexicon: Lexicon;
  /** What a name stands for, in words: its type, and its value in the sample in hand. */
  tell?: (name: string) => Promise<string | null>;
  /** Asks for types and values of formulas in the step in hand; the key changes whenever the answer may. */
  probe?: { key: string; ask: (formulas: string[]) => Promise<Probe[]> };
}

export interface Completion {
  /** The part of the text that a proposal replaces. */
  from: number;
  to: number;
  items: Suggestion[];
}

const PERSON: FieldTree[] = ['name', 'key', 'email', 'active', 'away', 'team'].map((key) => ({
  key,
  label: key,
  type: key === 'team' ? 'team' : key === 'active' || key === 'away' ? 'yes_no' : 'text',
}));
const TEAM: FieldTree[] = ['name', 'key', 'members'].map((key) => ({ key, label: key, type: 'text' }));

const OPTION: FieldTree[] = [
  { key: 'key', label: 'Key', type: 'text' },
  { key: 'label', label: 'Label', type: 'text' },
];

export function partsOf(field: FieldTree | undefined, lexicon: Lexicon): FieldTree[] {
  if (field?.type === 'reference' || field?.type === 'references') return fieldsOf(lexicon.type(field.to ?? ''));
  if (field?.type === 'person' || field?.type === 'people') return PERSON;
  if (field?.type === 'team') return TEAM;
  if (field?.type === 'two_step_choice')
    return [...OPTION, { ...field, key: 'parent', label: 'first step', type: 'choice' }];
  return [];
}

/** The field at the end of a path such as vessel.superintendent; look-ups are followed into their formulas. */
export function resolve(path: string, world: World, depth = 0): FieldTree | undefined {
  const [first = '', ...rest] = path.split('.');
  let field = world.fields.find((f) => f.key === first);
  const lookUp = world.lookUps.find((l) => l.name === first);
  if (!field && lookUp?.to) field = { key: lookUp.name, label: lookUp.name, type: 'reference', to: lookUp.to };
  else if (!field && lookUp && depth < 5) field = resolve(lookUp.value.trim(), world, depth + 1);
  for (const part of rest) field = partsOf(field, world.lexicon).find((f) => f.key === part);
  return field;
}

const detail = (field: FieldTree): string => `${field.label} · ${field.type.replace('_', ' ')}`;

export function optionsOf(field: FieldTree | undefined, lexicon: Lexicon): { key: string; label: string }[] {
  if (field?.type === 'choice' || field?.type === 'state' || field?.type === 'choices') return field.options ?? [];
  if (field?.type === 'two_step_choice')
    return (field.options ?? []).flatMap((o) =>
      o.children?.length ? o.children.map((c) => ({ key: c.key, label: `${o.label} › ${c.label}` })) : [o],
    );
  if (field?.type === 'person' || field?.type === 'people')
    return lexicon
      .allPeople()
      .filter((p) => p.active)
      .map((p) => ({ key: p.key, label: p.name }));
  if (field?.type === 'team') return lexicon.allTeams().map((t) => ({ key: t.key, label: t.name }));
  return [];
}

export const signature = (f: FunctionHelp): string =>
  `${f.name}(${f.parameters.map((p, i) => (i < f.required ? p : `${p}?`)).join(', ')}${f.variadic ? ', …' : ''})`;

/** What the filter that the caret stands in goes over; null outside of filters. */
function filtered(before: string, world: World): FieldTree | null {
  let depth = 0;
  for (let i = before.length - 1; i >= 0; i--) {
    if (before[i] === ']') depth++;
    else if (before[i] === '[' && depth-- === 0) {
      const path = /([a-z_]\w*(?:\.[a-z_]\w*)*)$/i.exec(before.slice(0, i))?.[1];
      return path ? (resolve(path, world) ?? null) : null;
    }
  }
  return null;
}

/** Proposals for the place of the caret: options after a comparison, parts after a dot, names anywhere else. */
export function complete(text: string, caret: number, world: World): Completion {
  const before = text.slice(0, caret);
  const none = { from: caret, to: caret, items: [] };

  const compared = /([a-z_]\w*(?:\.[a-z_]\w*)*)\s*(?:=|!=|in\s*\(?\s*(?:"[^"]*"\s*,\s*)*)\s*("[^"]*|)$/i.exec(before);
  if (compared && (before.match(/"/g) ?? []).length % 2 === (compared[2]?.startsWith('"') ? 1 : 0)) {
    const options = optionsOf(resolve(compared[1] ?? '', world), world.lexicon);
    const typed = (compared[2] ?? '').replace('"', '').toLowerCase();
    const items = options
      .filter((o) => o.label.toLowerCase().includes(typed) || o.key.includes(typed))
      .map((o) => ({ label: o.label, detail: o.key, insert: quote(o.key) }));
    const open = caret - (compared[2] ?? '').length;
    if (items.length > 0) return { from: open, to: caret + (text[caret] === '"' ? 1 : 0), items };
  }
  if ((before.match(/"/g) ?? []).length % 2 === 1) return none;

  const path = /([a-z_]\w*(?:\.[a-z_]\w*)*)\.(\w*)$/i.exec(before);
  if (path) {
    const typed = (path[2] ?? '').toLowerCase();
    const items = partsOf(resolve(path[1] ?? '', world), world.lexicon)
      .filter((f) => f.key.toLowerCase().startsWith(typed) || f.label.toLowerCase().startsWith(typed))
      .map((f) => ({ label: f.key, detail: detail(f), insert: f.key }));
    return { from: caret - typed.length, to: caret, items };
  }

  const word = /[\p{L}_][\p{L}\p{N}_]*$/u.exec(before)?.[0];
  if (!word) return none;
  const typed = word.toLowerCase();
  const fits = (...words: string[]) => words.some((w) => w.toLowerCase().startsWith(typed));
  const over = filtered(before, world);
  const inside: FieldTree[] = over ? partsOf(over, world.lexicon) : [];
  const items: Suggestion[] = [
    ...(over && fits('item') ? [{ label: 'item', detail: `each of ${over.label}`, insert: 'item' }] : []),
    ...inside
      .filter((f) => fits(f.key, f.label))
      .map((f) => ({ label: f.key, detail: `of each · ${detail(f)}`, insert: f.key })),
    ...world.lookUps.filter((l) => fits(l.name)).map((l) => ({ label: l.name, detail: 'look-up', insert: l.name })),
    ...world.fields
      .filter((f) => fits(f.key, f.label))
      .map((f) => ({ label: f.key, detail: detail(f), insert: f.key })),
    ...world.tables
      .filter((t) => fits(t.key, t.title))
      .map((t) => ({
        label: t.title,
        detail: `table ${t.key}(${t.inputs.join(', ')})`,
        insert: `${t.key}(${t.inputs.join(', ')})`,
      })),
    ...world.functions
      .filter((f) => fits(f.name))
      .map((f) => ({ label: f.name, detail: signature(f), insert: `${f.name}(` })),
  ].filter((item) => item.insert !== word);
  return { from: caret - word.length, to: caret, items: items.slice(0, 40) };
}

/** The function that the caret stands in, and which of its parameters. */
export function callAt(text: string, caret: number, world: World): { help: FunctionHelp; parameter: number } | null {
  let depth = 0;
  let commas = 0;
  const bare = text.slice(0, caret).replace(/"(?:[^"\\]|\\.)*"?/g, (quoted) => '_'.repeat(quoted.length));
  for (let i = bare.length - 1; i >= 0; i--) {
    const c = bare[i];
    if (c === ')' || c === ']') depth++;
    else if (c === '[') depth--;
    else if (c === '(') {
      if (depth === 0) {
        const head = bare.slice(0, i).toLowerCase();
        const help = world.functions
          .filter((f) => head.endsWith(f.name))
          .sort((a, b) => b.name.length - a.name.length)[0];
        return help ? { help, parameter: commas } : null;
      }
      depth--;
    } else if (c === ',' && depth === 0) commas++;
  }
  return null;
}

/** What an error proposes instead, and the text with it; null when it proposes nothing. */
export function proposal(
  text: string,
  error: { detail: string; from?: number | null | undefined; to?: number | null | undefined } | undefined,
): { word: string; text: string } | null {
  const word = /did you mean "([^"]+)"/.exec(error?.detail ?? '')?.[1];
  if (!word || error?.from === null || error?.from === undefined || error.to === null || error.to === undefined)
    return null;
  const bytes = new TextEncoder().encode(text);
  const decode = (part: Uint8Array) => new TextDecoder().decode(part);
  const wrong = decode(bytes.slice(error.from, error.to));
  const dot = wrong.lastIndexOf('.');
  const put = wrong.startsWith('"') ? quote(word) : dot >= 0 ? wrong.slice(0, dot + 1) + word : word;
  return { word, text: decode(bytes.slice(0, error.from)) + put + decode(bytes.slice(error.to)) };
}
