import { useQuery } from '@tanstack/react-query';
import { api, type DryRun, type GuardInForce } from '../api/client';
import type { FieldTree, Values } from '../api/trees';

export interface GuardsOf {
  /** False until they have been asked for; nothing is shown meanwhile that a guard may hide. */
  isKnown: boolean;
  /** Why a field cannot be changed now; null when it can. What counts is the ticket as it is stored. */
  locked: (field: string) => string | null;
  hidden: (field: string) => boolean;
  /** Why a field must be filled; null when it need not. */
  needed: (field: string) => string | null;
  limited: (field: string) => boolean;
}

/** The guards of a ticket as one types: those in force on what is stored, and on what it would become. */
export function useGuards(id: string | null, type: string, version: number, run: DryRun | undefined): GuardsOf {
  const { data, isError } = useQuery({
    queryKey: ['guards of', id, type, version],
    queryFn: () => api.dryRun(id, type, {}),
    enabled: type !== '',
    placeholderData: (old, query) => (query?.queryKey[1] === id ? old : undefined),
    staleTime: 30_000,
  });
  const stored: GuardInForce[] = data?.trace.guards ?? [];
  const now: GuardInForce[] = run?.trace.guards ?? stored;
  const find = (list: GuardInForce[], effect: GuardInForce['effect'], field: string) =>
    list.find((guard) => guard.effect === effect && guard.field === field);
  return {
    isKnown: data !== undefined || isError,
    locked: (field) => {
      const guard = find(id === null ? now : stored, 'read_only', field);
      return guard ? (guard.reason ?? 'It cannot be changed now.') : null;
    },
    hidden: (field) => find(now, 'hidden', field) !== undefined,
    needed: (field) => {
      const guard = find(now, 'required', field);
      return guard ? (guard.reason ?? 'It must be filled.') : null;
    },
    limited: (field) => find(now, 'choices', field) !== undefined,
  };
}

/** What remains of a field's choices, with the edits that are not saved; records are undefined where nothing limits them. */
export function useChoices(
  id: string | null,
  type: string,
  edits: Values,
  field: FieldTree,
  isLimited: boolean,
): { field: FieldTree; records: { id: string; name: string }[] | undefined; isKnown: boolean } {
  const others = Object.fromEntries(Object.entries(edits).filter(([key]) => key !== field.key));
  const { data } = useQuery({
    queryKey: ['choices', id, type, field.key, others],
    queryFn: () => api.choices({ id, type, values: others, field: field.key, q: '' }),
    enabled: isLimited,
    placeholderData: (old) => old,
    staleTime: 5_000,
  });
  if (!isLimited) return { field, records: undefined, isKnown: true };
  if (!data) return { field, records: undefined, isKnown: false };
  const open = data.options;
  const options = field.options
    ?.map((o) => (o.children ? { ...o, children: o.children.filter((c) => open?.includes(c.key)) } : o))
    .filter((o) => !open || open.includes(o.key) || (o.children?.length ?? 0) > 0);
  return { field: options ? { ...field, options } : field, records: data.records ?? undefined, isKnown: true };
}
