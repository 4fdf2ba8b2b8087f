import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';

/** Records that the references among some fields can point to, by their type. */
export function useReferred(fields: readonly { to?: string | null }[]): Map<string, { id: string; name: string }[]> {
  const targets = [...new Set(fields.flatMap((f) => (f.to ? [f.to] : [])))];
  const { data } = useQuery({
    queryKey: ['records of', targets],
    queryFn: async () => {
      const lists = await Promise.all(targets.map((t) => api.records(t, '')));
      return new Map(targets.map((t, i) => [t, lists[i]?.records ?? []]));
    },
    enabled: targets.length > 0,
  });
  return data ?? new Map();
}
