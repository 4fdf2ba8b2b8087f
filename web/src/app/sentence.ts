import {
  type Cell,
  type ChangeKind,
  type ChangeTree,
  changedType,
  changeField,
  changeKind,
  type FieldTree,
  type RuleTree,
  type StartTree,
  startKind,
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

const DAYS = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

const CLOCK = (hour: string, minute: string): string => `${hour.padStart(2, '0')}:${minute.padStart(2, '0')}`;

/** A schedule in words, for what is common; else as it is written. */
export function saySchedule(cron: string): string {
  const [minute = '', hour = '', day = '', month = '', weekday = ''] = cron.trim().split(/\s+/);
  const every = /^\*\/(\d+)$/.exec(minute);
  if (every && hour === '*' && day === '*' && month === '*' && weekday === '*') return `every ${every[1]} minutes`;
  if (!/^\d+$/.test(minute) || month !== '*') return `at ${cron}`;
  if (hour === '*' && day === '*' && weekday === '*') return `${minute} minutes past every hour`;
  if (!/^\d+$/.test(hour)) return `at ${cron}`;
  const at = CLOCK(hour, minute);
  if (day === '*' && weekday === '*') return `every day at ${at}`;
  if (day === '*' && weekday === '1-5') return `on workdays at ${at}`;
  if (day === '*' && /^[0-7](,[0-7])*$/.test(weekday))
    return `every ${join(
      weekday.split(',').map((d) => DAYS[Number(d)] ?? d),
      'and',
    )} at ${at}`;
  if (/^\d+$/.test(day) && weekday === '*') return `on day ${day} of every month at ${at}`;
  return `at ${cron}`;
}

export function sayStart(start: StartTree, rule: RuleTree, lexicon: Lexicon): string {
  if (start === 'created') return 'it is created';
  if (start === 'deleted') return 'it is deleted';
  const label = (key: string) => lexicon.label(typesOf(rule), key).toLowerCase();
  switch (startKind(start)) {
    case 'received':
      return 'a message comes in about it';
    case 'answered':
      return `the call “${start.answered}” comes back`;
    case 'at':
      return `${saySchedule(start.at ?? '')}${start.for === undefined ? '' : `, if ${sayCondition(start.for, rule, lexicon)}`}`;
    case 'by_hand':
      return `somebody starts it by hand${(start.by_hand?.ask ?? []).length > 0 ? ` and answers ${start.by_hand?.ask?.length === 1 ? 'a question' : `${start.by_hand?.ask?.length} questions`}` : ''}`;
    case 'related': {
      const to = lexicon.field(typesOf(rule), start.related ?? '')?.to;
      const fields = (start.changed ?? []).map((key) => lexicon.label(to ?? '', key).toLowerCase());
      return `${fields.length === 0 ? 'something' : `the ${join(fields, 'or')}`} of its ${label(start.related ?? '')} changes`;
    }
  }
  const labels = (start.changed ?? []).map(label);
  const field = start.changed?.[0] ?? '';
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

const VERBS: Record<ChangeKind, string> = {
  set: 'set ',
  clear: 'clear ',
  add: 'add to ',
  remove: 'take out of ',
  raise: 'raise ',
  prefix: 'put before ',
  suffix: 'put after ',
  assign: 'assign ',
  note: 'write a note for ',
  message: 'send a message',
  notify: 'tell ',
  call: 'call ',
  create: 'create a ',
  refuse: 'turn the save down',
};

/** A short formula in words; of a long one only what kind of thing it is. */
function brief(formula: Cell | undefined, otherwise: string, rule: RuleTree, lexicon: Lexicon): string {
  const text = String(formula ?? '').trim();
  // a name by itself is whom or what it names, not whether that is so
  const words = /^[a-z_][\w.]*$/i.test(text)
    ? (lexicon.field(typesOf(rule), text)?.label.toLowerCase() ?? text.replaceAll('_', ' '))
    : sayCondition(text, rule, lexicon);
  return words.length > 36 || /^(if|for) /.test(words) ? otherwise : words;
}

/** One change as pieces of a sentence. */
export function sayChange(change: ChangeTree, rule: RuleTree, lexicon: Lexicon): Piece[] {
  const kind = changeKind(change);
  const written = (text: string): Piece => ({ text, tone: 'written' });
  if (kind === 'note')
    return [{ text: VERBS.note }, written(change.note === 'requester' ? 'the requester' : 'the staff')];
  if (kind === 'notify') return [{ text: VERBS.notify }, written(brief(change.notify, 'people', rule, lexicon))];
  if (kind === 'call') return [{ text: VERBS.call }, written(`“${change.call}”`)];
  if (kind === 'create')
    return [
      { text: VERBS.create },
      written((lexicon.type(String(change.create))?.title ?? String(change.create)).toLowerCase()),
    ];
  if (kind === 'message')
    return [
      written('send a message'),
      ...(change.to === undefined ? [] : [{ text: ` to ${brief(change.to, 'people', rule, lexicon)}` }]),
    ];
  if (kind === 'refuse') return [written('turn the save down')];
  const owner = change.of === undefined ? 'its ' : 'the ';
  const field = lexicon.label(change.of === undefined ? typesOf(rule) : changedType(change, rule), changeField(change));
  const pieces: Piece[] = [{ text: `${VERBS[kind]}${kind === 'assign' ? 'it' : owner}` }];
  if (kind === 'assign')
    pieces.push(
      { text: change.assign === 'least_loaded' ? ' to the least loaded of ' : ' by turns in ' },
      written(lexicon.team(change.team ?? '')),
    );
  else pieces.push(written(field.toLowerCase()));
  if (change.of !== undefined) pieces.push({ text: ` of ${change.of}` });
  if (change.when === 'empty' && kind === 'set') pieces.push({ text: ' if it has none' });
  if (change.when === 'higher' || change.when === 'lower') pieces.push({ text: ` if that is ${change.when}` });
  return pieces;
}

function sayChanges(rule: RuleTree, lexicon: Lexicon): Piece[] {
  return rule.changes.flatMap((change, index) => [
    ...(index === 0 ? [] : [{ text: index === rule.changes.length - 1 ? ' and ' : ', ' }]),
    ...sayChange(change, rule, lexicon),
  ]);
}

const REPEATS: Record<string, string> = {
  becomes_true: ', when that comes to be so',
  once: ', once for each',
};

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
  pieces.push({ text: `${REPEATS[rule.repeat ?? 'each'] ?? ''}: ` }, ...sayChanges(rule, lexicon));
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

/** What a rule does, in a few words for the rulebook's list. */
export const writtenLabels = (rule: RuleTree, lexicon: Lexicon): string =>
  [
    ...new Set(
      rule.changes.map((change) => {
        const field = changeField(change);
        if (field === '') return changeKind(change) === 'refuse' ? 'turns down' : changeKind(change);
        const label = lexicon
          .label(change.of === undefined ? typesOf(rule) : changedType(change, rule), field)
          .toLowerCase();
        return change.of === undefined ? label : `${label} of ${change.of}`;
      }),
    ),
  ].join(', ');

/** What a title leaves out: a hint, when no word of it says what the rule does. */
export function namingHint(rule: RuleTree, lexicon: Lexicon): string | null {
  const words = (text: string): string[] => text.toLowerCase().split(/[^\p{L}\d]+/u);
  const title = words(rule.title).filter((w) => w.length > 2);
  if (title.length < 2 || /^new rule|^rule \d/i.test(rule.title)) return 'The title does not say what the rule does.';
  const about = [
    ...typesOf(rule).flatMap((key) => words(lexicon.type(key)?.title ?? key)),
    ...rule.changes.flatMap((change) => [
      ...words(lexicon.label(changedType(change, rule), changeField(change))),
      ...words(
        sayChange(change, rule, lexicon)
          .map((p) => p.text)
          .join(' '),
      ),
    ]),
    ...(rule.checks ?? []).flatMap((c) => words(lexicon.label(typesOf(rule), String(c.of)))),
    ...rule.starts.flatMap((s) => words(sayStart(s, rule, lexicon))),
    ...rule.rows.flatMap((r) => [...r.if, ...r.then].flatMap((cell) => words(String(cell)))),
  ].filter((w) => w.length > 2);
  const near = (a: string, b: string): boolean => a.slice(0, 4) === b.slice(0, 4);
  return title.some((w) => about.some((a) => near(w, a)))
    ? null
    : 'No word of the title says what the rule looks at or does.';
}
