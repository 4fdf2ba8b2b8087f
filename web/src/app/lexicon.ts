import type { Person, Team } from '../api/client';
import { type FieldTree, fieldsOf, type TypeTree } from '../api/trees';
import { sayDate, sayDuration, sayMoment } from '../parts/time';

/** A field for one entry of a field of several. */
function each(field: FieldTree): FieldTree {
  const one: Record<string, string> = { choices: 'choice', people: 'person', references: 'reference', tags: 'text' };
  return { ...field, type: one[field.type] ?? field.type };
}

/** Engine room › Pump */
function sayTwoSteps(key: string, field: FieldTree): string {
  for (const option of field.options ?? []) {
    if (option.key === key) return option.label;
    const below = option.children?.find((child) => child.key === key);
    if (below) return `${option.label} › ${below.label}`;
  }
  return key;
}

const plainText = (html: string): string =>
  new DOMParser().parseFromString(html.replace(/<(\/p|br|\/li)/g, ' <$1'), 'text/html').body.textContent?.trim() ?? '';

/** What things are called: fields, options, people, teams, records. */
export class Lexicon {
  private readonly types: Map<string, TypeTree>;
  private readonly people: Map<string, Person>;
  private readonly teams: Map<string, Team>;

  constructor(
    types: TypeTree[],
    people: Person[],
    teams: Team[],
    readonly records: Record<string, string> = {},
    /** Whose clock moments are shown on. */
    readonly timezone = 'UTC',
  ) {
    this.types = new Map(types.map((type) => [type.key, type]));
    this.people = new Map(people.map((person) => [person.key, person]));
    this.teams = new Map(teams.map((team) => [team.key, team]));
  }

  with(records: Record<string, string>): Lexicon {
    return new Lexicon(
      [...this.types.values()],
      [...this.people.values()],
      [...this.teams.values()],
      { ...this.records, ...records },
      this.timezone,
    );
  }

  type(key: string): TypeTree | undefined {
    return this.types.get(key);
  }

  allTypes(): TypeTree[] {
    return [...this.types.values()];
  }

  allPeople(): Person[] {
    return [...this.people.values()];
  }

  allTeams(): Team[] {
    return [...this.teams.values()];
  }

  field(type: string | string[], key: string): FieldTree | undefined {
    for (const each of Array.isArray(type) ? type : [type]) {
      const field = fieldsOf(this.types.get(each)).find((f) => f.key === key);
      if (field) return field;
    }
    return undefined;
  }

  label(type: string | string[], key: string): string {
    return this.field(type, key)?.label ?? key;
  }

  team(key: string): string {
    return this.teams.get(key)?.name ?? key;
  }

  person(key: string | null | undefined): string {
    return key ? (this.people.get(key)?.name ?? key) : 'the desk';
  }

  /** A stored value as people read it. */
  say(value: unknown, field?: FieldTree): string {
    if (value === null || value === undefined || value === '' || (Array.isArray(value) && value.length === 0))
      return 'empty';
    if (Array.isArray(value)) return value.map((item) => this.say(item, field && each(field))).join(', ');
    if (typeof value === 'boolean') return value ? 'Yes' : 'No';
    if (typeof value === 'number') return field?.type === 'percent' ? `${value} %` : String(value);
    if (typeof value === 'object') {
      if ('test' in value) return String((value as { test: unknown }).test);
      return JSON.stringify(value);
    }
    const text = String(value);
    switch (field?.type) {
      case 'choice':
      case 'state':
        return field.options?.find((option) => option.key === text)?.label ?? text;
      case 'person':
        return this.people.get(text)?.name ?? text;
      case 'team':
        return this.teams.get(text)?.name ?? text;
      case 'reference':
        return this.records[text] ?? text;
      case 'derived':
        return this.guess(text);
      case 'two_step_choice':
        return sayTwoSteps(text, field);
      case 'date':
        return sayDate(text);
      case 'date_time':
        return sayMoment(text, this.timezone);
      case 'duration':
        return sayDuration(text);
      case 'rich_text':
        return plainText(text);
      default:
        return text;
    }
  }

  /** What became of a field: what joined a list, or the new value; the old one when there was one. */
  sayChange(before: unknown, after: unknown, field?: FieldTree): string {
    if (Array.isArray(after) && (before === null || before === undefined || Array.isArray(before))) {
      const old = (before ?? []) as unknown[];
      const added = after.filter((item) => !old.includes(item));
      if (added.length > 0 && old.every((item) => after.includes(item))) return `+ ${this.say(added, field)}`;
    }
    const old = before === null || before === undefined ? '' : `${this.say(before, field)} `;
    return `${old}→ ${this.say(after, field)}`;
  }

  /** A value of unknown field: people and records by name when there is one. */
  guess(value: unknown): string {
    if (typeof value === 'string')
      return this.people.get(value)?.name ?? this.records[value] ?? this.teams.get(value)?.name ?? value;
    return this.say(value);
  }
}
