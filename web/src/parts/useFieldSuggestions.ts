import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';
import { type FieldTree, fieldsOf, quote, type RuleTree, typesOf } from '../api/trees';
import { useWorkshop } from '../app/workshop';
import type { Suggestion } from './CellEditor';
import { optionsOf } from './complete';

interface Found {
  suggestions: Suggestion[];
  say: (key: string) => string | null;
}

/** What a cell of a field can hold: options, people, teams, records; and the names that a formula may use. */
export function useFieldSuggestions(rule: RuleTree | null): (field: FieldTree | undefined, isCheck: boolean) => Found {
  const { lexicon, tables } = useWorkshop();
  const fields = rule ? fieldsOf(lexicon.type(typesOf(rule)[0] ?? '')) : [];
  const referred = [...new Set(fields.flatMap((f) => (f.to ? [f.to] : [])))];
  const { data: records } = useQuery({
    queryKey: ['records of', referred],
    queryFn: async () => {
      const lists = await Promise.all(referred.map((type) => api.records(type, '')));
      return new Map(referred.map((type, i) => [type, lists[i]?.records ?? []]));
    },
    enabled: referred.length > 0,
  });
  const names: Suggestion[] = [
    ...(rule?.look_ups ?? []).map((l) => ({ label: l.name, detail: 'look-up', insert: l.name })),
    ...fields.map((f) => ({ label: f.key, detail: f.label, insert: f.key })),
    ...tables.map(({ tree }) => ({
      label: tree.title,
      detail: `${tree.key}(…)`,
      insert: `${tree.key}(${tree.inputs.map((i) => i.key).join(', ')})`,
    })),
  ];
  return (field, isCheck) => {
    const list = (pairs: { key: string; label: string }[]): Found => ({
      suggestions: [
        ...pairs.map((p) => ({ label: p.label, detail: p.key, insert: quote(p.key) })),
        ...(isCheck
          ? [
              { label: 'empty', detail: 'null', insert: 'null' },
              { label: 'filled', detail: '!= null', insert: '!= null' },
            ]
          : names),
      ],
      say: (key) => pairs.find((p) => p.key === key)?.label ?? null,
    });
    switch (field?.type) {
      case 'choice':
      case 'choices':
      case 'two_step_choice':
      case 'state':
      case 'person':
      case 'people':
      case 'team':
        return list(optionsOf(field, lexicon));
      case 'reference':
      case 'references':
        return list((records?.get(field.to ?? '') ?? []).map((r) => ({ key: r.id, label: r.name })));
      case 'yes_no':
        return {
          suggestions: [
            { label: 'yes', detail: 'true', insert: 'true' },
            { label: 'no', detail: 'false', insert: 'false' },
            ...(isCheck ? [] : names),
          ],
          say: () => null,
        };
      default:
        return { suggestions: isCheck ? [] : names, say: () => null };
    }
  };
}
