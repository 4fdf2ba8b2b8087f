import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { api, type News, type Notice } from '../api/client';

const EVERY = 3000;

/** What others do appears without a reload: asked every few seconds, and only what has changed is read again. */
export function useLive(isOn: boolean): { news: News[]; notices: Notice[] } {
  const client = useQueryClient();
  const since = useRef('');
  const edition = useRef<number | null | undefined>(undefined);
  const { data } = useQuery({
    queryKey: ['changes'],
    queryFn: () => api.changes(since.current),
    refetchInterval: EVERY,
    enabled: isOn,
    staleTime: 0,
  });
  useEffect(() => {
    if (!data) return;
    since.current = data.since;
    if (edition.current !== undefined && edition.current !== data.edition)
      void client.invalidateQueries({ queryKey: ['desk'] });
    edition.current = data.edition;
    if (data.records.length === 0) return;
    for (const id of data.records) void client.invalidateQueries({ queryKey: ['ticket', id] });
    for (const list of ['tickets', 'register', 'registers', 'reports', 'runs', 'messages', 'outgoing'])
      void client.invalidateQueries({ queryKey: [list] });
  }, [data, client]);
  return { news: data?.news ?? [], notices: data?.notices ?? [] };
}
