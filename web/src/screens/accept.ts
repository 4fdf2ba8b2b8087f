import type { Difference } from '../api/client';
import type { ExpectTree, SampleTree } from '../api/trees';

/** The sample with one step's expectations changed to what came out. */
export function accept(sample: SampleTree, step: number, differences: Difference[]): SampleTree {
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
      } else if (d.field === 'refused') {
        expect.refused = d.actual !== false;
      }
    }
    for (const word of ['acted', 'still', 'problems'] as const) if (expect[word]?.length === 0) delete expect[word];
    if (expect.refused === false) delete expect.refused;
    return { ...old, expect };
  });
  return { ...sample, steps };
}
