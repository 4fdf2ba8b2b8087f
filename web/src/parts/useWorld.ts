import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';
import { fieldsOf, type RuleTree, type TableTree, typesOf } from '../api/trees';
import { useWorkshop } from '../app/workshop';
import type { World } from './complete';

/** What the formulas of a rule, or the cells of a table, may name. */
export function useWorld(rule: RuleTree | null, table: TableTree | null = null): World {
  const { lexicon, tables } = useWorkshop();
  const { data } = useQuery({ queryKey: ['functions'], queryFn: api.functions, staleTime: Number.POSITIVE_INFINITY });
  const inputs = (table?.inputs ?? []).map((input) => {
    const [type = '', key = ''] = (input.field ?? '').split('.');
    return { ...(lexicon.field(type, key) ?? { label: input.label ?? input.key, type: 'text' }), key: input.key };
  });
  return {
    fields: rule ? fieldsOf(lexicon.type(typesOf(rule)[0] ?? '')) : inputs,
    lookUps: (rule?.look_ups ?? []).map((l) => ({ name: l.name, value: String(l.value) })),
    tables: rule
      ? tables.map(({ tree }) => ({ key: tree.key, title: tree.title, inputs: tree.inputs.map((i) => i.key) }))
      : [],
    functions: data?.functions ?? [],
    lexicon,
  };
}
