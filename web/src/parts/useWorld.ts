import { useQuery } from '@tanstack/react-query';
import { useCallback, useRef } from 'react';
import { api, type Probe } from '../api/client';
import { fieldsOf, lookUpKind, type RuleTree, type TableTree, typesOf } from '../api/trees';
import { useWorkshop } from '../app/workshop';
import type { World } from './complete';
import { sayProbe } from './sayProbe';

/** A part of the rulebook whose formulas stand on records: a rule, or with an empty key a guard. */
interface Standing {
  key: string;
  on: string | string[];
  look_ups?: RuleTree['look_ups'];
}

/** What the formulas of a rule or a guard, or the cells of a table, may name. */
export function useWorld(rule: Standing | null, table: TableTree | null = null): World {
  const { lexicon, tables, inHand, step, stamp } = useWorkshop();
  const { data } = useQuery({ queryKey: ['functions'], queryFn: api.functions, staleTime: Number.POSITIVE_INFINITY });
  const inputs = (table?.inputs ?? []).map((input) => {
    const [type = '', key = ''] = (input.field ?? '').split('.');
    return { ...(lexicon.field(type, key) ?? { label: input.label ?? input.key, type: 'text' }), key: input.key };
  });
  const sample = inHand?.part.key ?? null;
  const asked = JSON.stringify([rule, sample, step, stamp]);
  const latest = useRef({ rule, lexicon });
  latest.current = { rule, lexicon };
  const key = rule ? rule.key : null;
  const on = rule ? (typesOf(rule)[0] ?? '') : '';
  const ask = useCallback(
    async (formulas: string[]): Promise<Probe[]> =>
      key === null
        ? []
        : (
            await api.probe({
              ...(key === '' ? { on } : { rule: key, tree: latest.current.rule }),
              formulas,
              sample,
              step,
            })
          ).probes,
    [key, on, sample, step],
  );
  const columns = useRef(inputs);
  columns.current = inputs;
  const tell = useCallback(
    async (name: string): Promise<string | null> => {
      const input = columns.current.find((i) => i.key === name);
      if (input) return `${input.label} · ${input.type.replace('_', ' ')}`;
      // a rule that is not in order has no types yet
      const [probe] = await ask([name]).catch(() => []);
      return probe ? sayProbe(name, probe, latest.current.lexicon) : null;
    },
    [ask],
  );
  return {
    tell,
    ...(key === null ? {} : { probe: { key: asked, ask } }),
    fields: rule ? fieldsOf(lexicon.type(typesOf(rule)[0] ?? '')) : inputs,
    lookUps: (rule?.look_ups ?? []).map((l) => {
      const kind = lookUpKind(l);
      const to = kind === 'first' || kind === 'all' ? l[kind] : undefined;
      return { name: l.name, value: String(l.value ?? ''), ...(to ? { to } : {}) };
    }),
    tables: rule
      ? tables.map(({ tree }) => ({ key: tree.key, title: tree.title, inputs: tree.inputs.map((i) => i.key) }))
      : [],
    functions: data?.functions ?? [],
    lexicon,
  };
}
