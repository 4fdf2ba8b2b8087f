import { type GuardTree, type TypeTree, typesOf } from '../api/trees';
import type { Lexicon } from './lexicon';

export const EFFECTS: Record<GuardTree['effect'], string> = {
  read_only: 'cannot be changed',
  required: 'must be filled',
  hidden: 'is not shown',
  choices: 'is limited in its choices',
};

/** One word for a cell of the table of states. */
export const SHORT: Record<GuardTree['effect'], string> = {
  read_only: 'fixed',
  required: 'needed',
  hidden: 'hidden',
  choices: 'limited',
};

export const sayGuard = (guard: GuardTree, lexicon: Lexicon): string =>
  `${lexicon.label(typesOf(guard), guard.field)} ${EFFECTS[guard.effect]}`;

/** The states in which a guard is in force, when its condition asks about nothing but the state; else null. */
export function statesOf(guard: GuardTree, type: TypeTree): string[] | null {
  const all = (type.states ?? []).map((state) => state.key);
  const when = guard.when === undefined ? '' : String(guard.when).trim();
  if (when === '') return all;
  const denied = /^not\((.*)\)$/s.exec(when);
  const inner = denied?.[1]?.trim() ?? when;
  const one = /^state\s*(=|!=)\s*"(\w+)"$/.exec(inner);
  const several = /^state\s+in\s*\(\s*((?:"\w+"\s*,?\s*)+)\)$/.exec(inner);
  const named = one
    ? [one[2] ?? '']
    : several
      ? [...(several[1] ?? '').matchAll(/"(\w+)"/g)].map((m) => m[1] ?? '')
      : null;
  if (!named) return null;
  const positive = (one?.[1] !== '!=') !== (denied !== null);
  return all.filter((state) => named.includes(state) === positive);
}
