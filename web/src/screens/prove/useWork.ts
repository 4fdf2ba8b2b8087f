import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type LongWork, Problem, type WorkKind } from '../../api/client';
import { useWorkshop } from '../../app/workshop';

/** The last long work of a kind: how far it is, and what may be done with it. */
export function useWork(kind: WorkKind) {
  const { stamp } = useWorkshop();
  const client = useQueryClient();
  const [problem, setProblem] = useState<Problem | null>(null);
  const query = useQuery({
    // whether it still belongs to the draft is asked anew after each edit
    queryKey: ['work', kind, stamp],
    queryFn: () => api.lastWork(kind),
    placeholderData: (old) => old,
    refetchInterval: ({ state }) => {
      const work = state.data?.work;
      return work && !work.stopped && work.done < work.chunks ? 700 : false;
    },
  });
  const act = async (doIt: () => Promise<LongWork>) => {
    setProblem(null);
    try {
      client.setQueryData(['work', kind, stamp], { work: await doIt() });
      await client.invalidateQueries({ queryKey: ['work', kind] });
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  const work = query.data?.work ?? null;
  return {
    work,
    known: query.data !== undefined && !query.isPlaceholderData,
    problem,
    running: work !== null && !work.stopped && work.done < work.chunks,
    ask: (days?: number) => act(() => api.askForWork({ kind, days })),
    askAbout: (edition: number) => act(() => api.askForWork({ kind, edition })),
    stop: () => work && act(() => api.actOnWork(work.number, 'stop')),
    goOn: () => work && act(() => api.actOnWork(work.number, 'go_on')),
  };
}
