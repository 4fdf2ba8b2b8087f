import { describe, expect, it } from 'vitest';
import type { TypeTree } from '../api/trees';
import { Lexicon } from '../app/lexicon';
import { callAt, complete, proposal, resolve, type World } from './complete';

const types: TypeTree[] = [
  {
    key: 'vessel',
    title: 'Vessel',
    kind: 'register',
    fields: [
      { key: 'name', label: 'Name', type: 'text' },
      { key: 'superintendent', label: 'Superintendent', type: 'person' },
    ],
  },
];
const world: World = {
  fields: [
    { key: 'vessel', label: 'Vessel', type: 'reference', to: 'vessel' },
    { key: 'impact', label: 'Impact', type: 'choice', options: [{ key: 'sailing', label: 'The next sailing' }] },
    { key: 'hours_down', label: 'Hours down', type: 'number' },
  ],
  lookUps: [{ name: 'chief', value: 'vessel.superintendent' }],
  tables: [{ key: 'points', title: 'Points', inputs: ['impact'] }],
  functions: [{ name: 'list contains', parameters: ['list', 'element'], required: 2, variadic: false, examples: [] }],
  lexicon: new Lexicon(types, [{ key: 'ines', name: 'Ines Calder', email: null, active: true, away: false }], []),
};
const labels = (text: string) => complete(text, text.length, world).items.map((i) => i.label);

describe('completion', () => {
  it('follows paths over references, people and look-ups', () => {
    expect(labels('vessel.')).toEqual(['name', 'superintendent']);
    expect(labels('vessel.su')).toEqual(['superintendent']);
    expect(labels('vessel.superintendent.te')).toEqual(['team']);
    expect(labels('chief.na')).toEqual(['name']);
    expect(labels('hours_down.')).toEqual([]);
    expect(resolve('chief', world)?.type).toBe('person');
  });
  it('knows what a filter goes over', () => {
    const inner = {
      ...world,
      fields: [...world.fields, { key: 'fleet', label: 'Fleet', type: 'references', to: 'vessel' }],
    };
    const of = (text: string) => complete(text, text.length, inner).items.map((i) => i.label);
    expect(of('fleet[na')).toEqual(['name']);
    expect(of('count(fleet[superintendent != null and it')).toEqual(['item']);
    expect(of('fleet[1] na')).toEqual([]);
    expect(of('fleet.')).toEqual(['name', 'superintendent']);
  });
  it('proposes options and people after a comparison', () => {
    expect(labels('impact = ')).toEqual(['The next sailing']);
    expect(labels('impact = "sai')).toEqual(['The next sailing']);
    expect(complete('impact = "sai"', 13, world)).toMatchObject({ from: 9, to: 14 });
    expect(labels('chief = ')).toEqual(['Ines Calder']);
    expect(labels('impact in ("sailing", ')).toEqual(['The next sailing']);
  });
  it('proposes fields, look-ups, tables and functions by key or label', () => {
    expect(labels('hou')).toEqual(['hours_down']);
    expect(labels('1 + po')).toEqual(['Points']);
    expect(labels('lis')).toEqual(['list contains']);
    expect(labels('"in a text hou')).toEqual([]);
    expect(labels('')).toEqual([]);
  });
  it('knows the function and the parameter at the caret', () => {
    expect(callAt('list contains(tags, "a, (b")', 25, world)).toMatchObject({ parameter: 1 });
    expect(callAt('1 + 2', 3, world)).toBeNull();
  });
});

describe('proposals of errors', () => {
  it('mend the place that the error points at', () => {
    const detail = '"urgnt" is not an option; did you mean "urgent"?';
    expect(proposal('é + "urgnt"', { detail, from: 5, to: 12 })).toEqual({ word: 'urgent', text: 'é + "urgent"' });
    expect(proposal('inpact = 1', { detail: 'did you mean "impact"?', from: 0, to: 6 })?.text).toBe('impact = 1');
    expect(proposal('ship.chef', { detail: 'did you mean "chief"?', from: 0, to: 9 })?.text).toBe('ship.chief');
    expect(proposal('x', { detail: 'wrong', from: 0, to: 1 })).toBeNull();
  });
});
