import type { Difference } from '../api/client';
import { DONE_WORDS, type ExpectTree, type SampleTree, type Values } from '../api/trees';

/** What was done beside fields, as it is to be expected from now on. */
export function toExpect(word: (typeof DONE_WORDS)[number], done: Values): Values {
  switch (word) {
    case 'messages':
      return { to: done.to, subject: done.subject, contains: done.body };
    case 'calls':
      return { call: done.call, body: done.body };
    case 'created':
      return { type: done.type, with: done.with };
    case 'notes':
      return { contains: done.text, for: done.for };
    default:
      return { people: done.people, contains: done.text };
  }
}

/** The sample with one step's expectations changed to what came out. */
export function accept(
  sample: SampleTree,
  step: number,
  differences: Difference[],
  by: string,
  at = new Date().toISOString().slice(0, 19).concat('Z'),
): SampleTree {
  const steps = sample.steps.map((old, i) => {
    if (i !== step) return old;
    const expect: ExpectTree = { ...old.expect };
    for (const d of differences) {
      if (d.record !== null) {
        expect[d.record] = { ...((expect[d.record] ?? {}) as Record<string, unknown>), [d.field]: d.actual };
      } else if (d.field === 'acted' || d.field === 'still') {
        expect[d.field] = (expect[d.field] ?? []).filter((rule) => rule !== d.expected);
      } else if (d.field === 'problems') {
        expect.problems = d.actual as string[];
      } else if (d.field === 'unchanged') {
        expect.unchanged = (expect.unchanged ?? []).filter((id) => id !== d.expected);
      } else if ((DONE_WORDS as readonly string[]).includes(d.field)) {
        const word = d.field as (typeof DONE_WORDS)[number];
        expect[word] = ((d.actual ?? []) as Values[]).map((one) => toExpect(word, one));
      } else if (d.field === 'refused') {
        expect.refused = d.actual !== false;
      }
    }
    for (const word of ['acted', 'still', 'problems', 'unchanged'] as const)
      if (expect[word]?.length === 0) delete expect[word];
    if (expect.refused === false) delete expect.refused;
    return { ...old, expect, accepted: { by, at } };
  });
  return { ...sample, steps };
}
