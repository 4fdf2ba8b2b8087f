import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import { api } from '../../api/client';
import type { DeskView } from '../../app/desk';
import { asked } from './lines';

/** The tickets that an address asks for, a page at a time, and the words for what they refer to. */
export function useTicketPages(search: URLSearchParams, size: number, view: DeskView | undefined, enabled = true) {
  const query = asked(search);
  query.set('limit', String(size));
  const list = useInfiniteQuery({
    queryKey: ['tickets', query.toString()],
    queryFn: ({ pageParam }) => {
      const page = new URLSearchParams(query);
      if (pageParam) page.set('cursor', pageParam);
      return api.tickets(page.toString());
    },
    initialPageParam: '',
    getNextPageParam: (page) => page.next ?? undefined,
    placeholderData: keepPreviousData,
    enabled,
  });
  const pages = list.data?.pages ?? [];
  const names = Object.assign({}, ...pages.map((page) => page.names)) as Record<string, string>;
  return {
    list,
    lexicon: view?.lexicon.with(names),
    names,
    tickets: pages.flatMap((page) => page.tickets),
    total: pages[0]?.total,
  };
}
