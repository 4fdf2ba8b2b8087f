import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, type Kind, type LongWork, type Replay } from '../api/client';
import type { SampleTree } from '../api/trees';

/** From so many steps on, nobody waits for a replay of all: workers share it. */
const LONG = 2000;

const LASTING = { staleTime: Number.POSITIVE_INFINITY, gcTime: 30_000 };

/** How many steps the samples have, each as often as it is repeated and told. */
export function stepsOf(samples: SampleTree[]): number {
  const times = (sample: SampleTree) => Math.max(1, sample.variants?.lines.length ?? 0);
  const steps = (sample: SampleTree) => sample.steps.reduce((sum, step) => sum + (step.repeat ?? 1), 0);
  return samples.reduce((sum, sample) => sum + times(sample) * steps(sample), 0);
}

export interface ReplayOfAll {
  data: Replay | undefined;
  /** Whether it is of what stands in the draft now. */
  fresh: boolean;
  fetching: boolean;
  error: unknown;
  /** How far workers are; null when nobody has to wait for them. */
  progress: { percent: number; stopped: boolean; stop: () => void; goOn: () => void } | null;
  again: () => void;
}

/**
 * Every sample replayed through the draft: at once with what is being typed, or, where that is a long run, by workers
 * once it is saved.
 */
export function useReplayOfAll(
  stamp: string,
  tried: { kind: Kind; key: string; tree: unknown } | null,
  samples: SampleTree[],
  enabled: boolean,
): ReplayOfAll {
  const client = useQueryClient();
  const isLong = stepsOf(samples) >= LONG;
  const atOnce = useQuery({
    queryKey: ['replay', stamp, tried],
    queryFn: () => api.replay(tried),
    enabled: enabled && !isLong,
    placeholderData: keepPreviousData,
    ...LASTING,
  });
  const work = useQuery({
    queryKey: ['replay work', stamp],
    queryFn: ({ client: cache, queryKey }) => {
      const known = cache.getQueryData<LongWork>(queryKey);
      return known ? api.work(known.number) : api.askForWork({ kind: 'replay' });
    },
    // what is being typed is replayed by them once it is saved
    enabled: enabled && isLong && tried === null,
    refetchInterval: ({ state }) =>
      state.data && !state.data.stopped && state.data.done < state.data.chunks ? 500 : false,
    ...LASTING,
  });
  const now = work.data;
  const isDone = now !== undefined && now.done === now.chunks;
  const result = useQuery({
    queryKey: ['replay result', now?.number],
    queryFn: async () => (await api.workWithResult(now?.number ?? 0)).result as unknown as Replay,
    enabled: isLong && isDone,
    placeholderData: keepPreviousData,
    ...LASTING,
  });
  const acting = useMutation({
    mutationFn: ({ number, what }: { number: number; what: 'stop' | 'go_on' }) => api.actOnWork(number, what),
    onSettled: () => client.invalidateQueries({ queryKey: ['replay work', stamp] }),
  });
  if (!isLong)
    return {
      data: atOnce.data,
      fresh: atOnce.isSuccess && !atOnce.isPlaceholderData && !atOnce.isFetching,
      fetching: atOnce.isFetching,
      error: atOnce.error,
      progress: null,
      again: () => void atOnce.refetch(),
    };
  const act = (what: 'stop' | 'go_on') => now && acting.mutate({ number: now.number, what });
  return {
    data: result.data,
    fresh: isDone && result.isSuccess && !result.isPlaceholderData && tried === null,
    fetching: work.isFetching || result.isFetching,
    error: work.error ?? result.error ?? acting.error,
    progress:
      now && !isDone
        ? {
            percent: Math.round((now.done / Math.max(1, now.chunks)) * 100),
            stopped: now.stopped,
            stop: () => act('stop'),
            goOn: () => act('go_on'),
          }
        : null,
    again: () => void client.resetQueries({ queryKey: ['replay work', stamp] }),
  };
}
