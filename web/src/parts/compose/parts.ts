import type { TextPart } from '../../api/client';
import type { FieldTree } from '../../api/trees';
import { resolve, type World } from '../complete';

/** A field as a part of a text: by its name where it is a person, a team or a record; left out while it is empty. */
export function partOf(path: string, world: World): TextPart {
  const field = resolve(path, world);
  const of = path + nameOf(field, world);
  const isText = field !== undefined && ['text', 'long_text', 'choice', 'state'].includes(field.type);
  const named = of !== path;
  return { of, string: !isText && !named, empty: 'nothing', before: '', after: '' };
}

function nameOf(field: FieldTree | undefined, world: World): string {
  if (field?.type === 'person' || field?.type === 'team') return '.name';
  if (field?.type !== 'reference') return '';
  const name = world.lexicon.type(field.to ?? '')?.name_field;
  return name ? `.${name}` : '';
}

export const moved = <T>(list: T[], from: number, by: number): T[] => {
  const to = from + by;
  const item = list[from];
  if (item === undefined || to < 0 || to >= list.length) return list;
  const rest = list.filter((_, i) => i !== from);
  return [...rest.slice(0, to), item, ...rest.slice(to)];
};

/** Empty texts say nothing, so they do not go into the formula. */
export const said = (parts: TextPart[]): TextPart[] =>
  parts.filter((part) => part.of !== undefined || part.text !== '');
