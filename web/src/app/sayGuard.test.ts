import { expect, it } from 'vitest';
import type { GuardTree, TypeTree } from '../api/trees';
import { statesOf } from './sayGuard';

const type: TypeTree = {
  key: 'job',
  title: 'Job',
  kind: 'ticket',
  fields: [],
  states: ['new', 'doing', 'done'].map((key) => ({ key, label: key, open: true })),
};
const of = (when?: string) =>
  statesOf(
    { key: 'g', on: 'job', field: 'a', effect: 'read_only', ...(when === undefined ? {} : { when }) } as GuardTree,
    type,
  );

it('tells the states in which a guard is in force, where only the state is asked about', () => {
  expect(of()).toEqual(['new', 'doing', 'done']);
  expect(of('state = "doing"')).toEqual(['doing']);
  expect(of('state != "doing"')).toEqual(['new', 'done']);
  expect(of('state in ("doing", "done")')).toEqual(['doing', 'done']);
  expect(of('not(state in ("doing", "done"))')).toEqual(['new']);
  expect(of('state = "doing" and sure')).toBeNull();
});
