import type { ActionTrace } from '../../api/client';
import type { Lexicon } from '../../app/lexicon';

const text = (value: unknown): string => (typeof value === 'string' ? value : '');

const list = (value: unknown): string[] => (Array.isArray(value) ? value.filter((v) => typeof v === 'string') : []);

/** What waited until the record had settled, in words: what it was, and what it said. */
export function sayAction(action: ActionTrace, lexicon: Lexicon): { what: string; says: string } {
  const data = (action.data ?? {}) as Record<string, unknown>;
  if (action.problem) return { what: action.kind, says: action.problem };
  switch (action.kind) {
    case 'note':
      return { what: `note for the ${text(data.for)}`, says: text(data.text) };
    case 'message':
      return { what: `message to ${list(data.to).join(', ')}`, says: `${text(data.subject)}: ${text(data.body)}` };
    case 'notify':
      return {
        what: `tells ${list(data.people)
          .map((p) => lexicon.person(p))
          .join(', ')}`,
        says: text(data.text),
      };
    case 'call':
      return { what: `calls ${text(data.call)}`, says: JSON.stringify(data.body ?? null) };
    case 'create':
      return {
        what: `creates a ${(lexicon.type(text(data.type))?.title ?? text(data.type)).toLowerCase()}`,
        says: Object.entries((data.with ?? {}) as Record<string, unknown>)
          .map(([key, value]) => `${lexicon.label(text(data.type), key).toLowerCase()} ${lexicon.guess(value)}`)
          .join(', '),
      };
    case 'refuse':
      return { what: 'turns the save down', says: text(data.reason) };
  }
  const count = action.count === 1 ? (action.records[0] ?? '') : `${action.count} records`;
  return {
    what: `${action.kind} ${action.field ?? ''} of ${action.of ?? ''}`,
    says: `${lexicon.guess(action.cell)} on ${count}`,
  };
}

/** Whether it came to anything. */
export const isDone = (action: ActionTrace): boolean => action.data !== null && action.problem === null;
