import {
  type Cell,
  changeField,
  changeKind,
  type FieldTree,
  fieldsWritten,
  type RuleTree,
  type StartTree,
  typesOf,
} from '../api/trees';
import type { Lexicon } from './lexicon';
import { type Naming, sayFormula } from './sayFormula';

export interface Piece {
  text: string;
  tone?: 'strong' | 'term' | 'written';
}

const join = (words: string[], last: string): string =>
  words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} ${last} ${words.at(-1)}`;

function typeTitle(rule: RuleTree, lexicon: Lexicon): string {
  return join(
    typesOf(rule).map((key) => (lexicon.type(key)?.title ?? key).toLowerCase()),
    'or',
  );
}

/** A unary test in words, for what is common; else the formula itself. */
export function sayTest(test: Cell, rule: RuleTree, field: string, lexicon: Lexicon): string {
  const text = String(test);
  const of = lexicon.field(typesOf(rule), field);
  return text.replace(/"((?:[^"\\]|\\.)*)"/g, (_, key: string) => `“${lexicon.say(key, of)}”`);
}

export function sayStart(start: StartTree, rule: RuleTree, lexicon: Lexicon): string {
  if (start === 'created') return 'it is created';
  const labels = start.changed.map((key) => lexicon.label(typesOf(rule), key).toLowerCase());
  const field = start.changed[0] ?? '';
  const from = start.from === undefined ? '' : ` from ${sayTest(start.from, rule, field, lexicon)}`;
  const to = start.to === undefined ? '' : ` to ${sayTest(start.to, rule, field, lexicon)}`;
  return `its ${join(labels, 'or')} change${labels.length === 1 ? 's' : ''}${from}${to}`;
}

/** A condition in words, as far as it is made of common tests. */
export function sayCondition(formula: Cell, rule: RuleTree, lexicon: Lexicon): string {
  const first = typesOf(rule)[0] ?? '';
  const name: Naming = (path) => {
    const labels: string[] = [];
    let type: string | undefined = first;
    let field: FieldTree | undefined;
    for (const key of path.split('.')) {
      const lookUp = labels.length === 0 && (rule.look_ups ?? []).some((l) => l.name === key);
      field = type === undefined ? undefined : lexicon.field(type, key);
      if (!field && !lookUp && labels.length === 0) return null;
      labels.push((field?.label ?? key).toLowerCase());
      type = field?.type === 'reference' ? field.to : undefined;
    }
    return { words: labels.join('’s '), field };
  };
  return sayFormula(String(formula).trim(), name, (value, field) => lexicon.say(value, field));
}

function sayChanges(rule: RuleTree, lexicon: Lexicon): Piece[] {
  const pieces: Piece[] = [];
  rule.changes.forEach((change, index) => {
    const kind = changeKind(change);
    if (index > 0) pieces.push({ text: index === rule.changes.length - 1 ? ' and ' : ', ' });
    pieces.push({ text: kind === 'set' ? 'set its ' : kind === 'add' ? 'add to its ' : 'clear its ' });
    pieces.push({ text: lexicon.label(typesOf(rule), changeField(change)).toLowerCase(), tone: 'written' });
    if (kind === 'set' && change.when === 'empty') pieces.push({ text: ' if it has none' });
    if (kind === 'set' && (change.when === 'higher' || change.when === 'lower'))
      pieces.push({ text: ` if that is ${change.when}` });
  });
  return pieces;
}

/** The rule as one sentence. */
export function sentence(rule: RuleTree, lexicon: Lexicon): Piece[] {
  const checks = (rule.checks ?? []).map((check) => {
    const text = String(check.of);
    return lexicon.field(typesOf(rule), text)?.label.toLowerCase() ?? text;
  });
  const pieces: Piece[] = [
    { text: 'When a ' },
    { text: typeTitle(rule, lexicon), tone: 'strong' },
    { text: ': ' },
    {
      text: join(
        rule.starts.map((start) => sayStart(start, rule, lexicon)),
        'or',
      ),
      tone: 'term',
    },
  ];
  if (rule.only_if !== undefined) {
    pieces.push({ text: ', and only if ' }, { text: sayCondition(rule.only_if, rule, lexicon), tone: 'term' });
  }
  pieces.push({ text: ': ' }, ...sayChanges(rule, lexicon));
  if (checks.length > 0) pieces.push({ text: ', by ' }, { text: join(checks, 'and'), tone: 'term' });
  pieces.push({ text: '.' });
  return pieces;
}

/** A short line under the rule's title in the rulebook. */
export function reading(rule: RuleTree, lexicon: Lexicon): string {
  const starts = join(
    rule.starts.map((start) => sayStart(start, rule, lexicon)),
    'or',
  );
  const only = rule.only_if === undefined ? '' : `, if ${sayCondition(rule.only_if, rule, lexicon)}`;
  const rows = rule.rows.length === 1 ? '' : `; ${rule.rows.length} rows`;
  return `${typeTitle(rule, lexicon)}, when ${starts}${only}${rows}`;
}

export const writtenLabels = (rule: RuleTree, lexicon: Lexicon): string =>
  fieldsWritten(rule)
    .map((key) => lexicon.label(typesOf(rule), key).toLowerCase())
    .join(', ');
