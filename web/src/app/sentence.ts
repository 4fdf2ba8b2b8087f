import {
  type Cell,
  changeField,
  changeKind,
  fieldsWritten,
  type RuleTree,
  type StartTree,
  typesOf,
} from '../api/trees';
import type { Lexicon } from './lexicon';

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

/** A condition in words when it is a simple comparison, else the formula. */
export function sayCondition(formula: Cell, rule: RuleTree, lexicon: Lexicon): string {
  const text = String(formula).trim();
  const simple = /^([a-z_][\w]*)\s*(=|!=)\s*(null|"(?:[^"\\]|\\.)*"|true|false)$/i.exec(text);
  if (!simple) return text;
  const [, key = '', operator, value = ''] = simple;
  const field = lexicon.field(typesOf(rule), key);
  if (!field) return text;
  const not = operator === '!=';
  if (value === 'null') return `${field.label.toLowerCase()} is ${not ? 'filled' : 'empty'}`;
  const plain = value.startsWith('"') ? lexicon.say(value.slice(1, -1), field) : value === 'true' ? 'yes' : 'no';
  return `${field.label.toLowerCase()} is ${not ? 'not ' : ''}${plain.toLowerCase()}`;
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
