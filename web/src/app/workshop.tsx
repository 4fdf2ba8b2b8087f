import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from 'react';
import {
  api,
  type Change,
  type Draft,
  type Kind,
  type Part,
  Problem,
  type Replay,
  type ReplayedSample,
  type RuleTrace,
  type SavedPart,
  type TracedStep,
} from '../api/client';
import type { GuardTree, MirrorTree, RuleTree, SampleTree, TableTree, TypeTree } from '../api/trees';
import { Lexicon } from './lexicon';
import { type ReplayOfAll, useReplayOfAll } from './useReplayOfAll';

export const PROVES: [SampleTree['proves'], string][] = [
  ['act', 'Act'],
  ['stay_still', 'Stay still'],
  ['missing', 'Missing'],
  ['several', 'Several'],
  ['load', 'Load'],
];

export interface Tried {
  kind: Kind;
  key: string;
  tree: unknown;
}

export interface NumberedSample {
  number: number;
  part: Part;
  tree: SampleTree;
  result: ReplayedSample | undefined;
}

interface Workshop {
  draft: Draft;
  /** Changes with every saved edit of the draft. */
  stamp: string;
  lexicon: Lexicon;
  rules: { part: Part; tree: RuleTree }[];
  tables: { part: Part; tree: TableTree }[];
  guards: { part: Part; tree: GuardTree }[];
  mirrors: { part: Part; tree: MirrorTree }[];
  types: TypeTree[];
  samples: NumberedSample[];
  replay: Replay | undefined;
  replaying: boolean;
  /** How far workers are with a replay that takes long; null otherwise. */
  progress: ReplayOfAll['progress'];
  /** Why what is being tried cannot be replayed. */
  problem: Problem | null;
  /** Why the draft as it is saved cannot be replayed. */
  trouble: Problem | null;
  inHand: NumberedSample | undefined;
  takeInHand: (key: string) => void;
  step: number;
  setStep: (step: number) => void;
  traced: TracedStep | undefined;
  /** Every step of the sample in hand, as traced. */
  tracedSteps: TracedStep[];
  /** What a rule did in the step in hand: its last look. */
  lookOf: (rule: string) => RuleTrace | undefined;
  tryOut: (tried: Tried | null) => void;
  replayAll: () => void;
  saved: (kind: Kind, answer: SavedPart, position?: number) => void;
  gone: (kind: Kind, key: string, changes: Change[]) => void;
  ordered: (keys: string[], changes: Change[]) => void;
  reload: () => void;
}

const Context = createContext<Workshop | null>(null);

function useDebounced<T>(value: T, wait: number): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), wait);
    return () => clearTimeout(timer);
  }, [value, wait]);
  return settled;
}

/** The draft, its replay and the sample in hand, for every screen of the workshop. */
export function WorkshopProvider({ children }: { children: ReactNode }) {
  const client = useQueryClient();
  const draftQuery = useQuery({ queryKey: ['draft'], queryFn: api.draft });
  const [tried, tryOut] = useState<Tried | null>(null);
  const [handKey, setHandKey] = useState<string | null>(() => sessionStorage.getItem('in hand'));
  const [step, setStep] = useState(0);
  const draft = draftQuery.data;
  const last = useRef<Replay | undefined>(undefined);
  const lastHand = useRef<Replay | undefined>(undefined);

  const samples = useMemo(() => {
    const found: Omit<NumberedSample, 'result'>[] = [];
    for (const [proves] of PROVES) {
      for (const part of draft?.samples ?? []) {
        const tree = part.tree as unknown as SampleTree;
        if (tree.proves === proves) found.push({ number: found.length + 1, part, tree });
      }
    }
    return found;
  }, [draft]);

  const stamp = useMemo(
    () =>
      draft
        ? [...draft.rules, ...draft.tables, ...draft.guards, ...draft.mirrors, ...draft.samples, ...draft.types]
            .map((p) => `${p.key}:${p.version}`)
            .join(' ')
        : '',
    [draft],
  );
  const hand = handKey ?? samples[0]?.part.key ?? null;
  const settled = useDebounced(tried, 60);
  const lasting = { placeholderData: keepPreviousData, staleTime: Number.POSITIVE_INFINITY, gcTime: 30_000 };
  // the sample in hand first, for the margin; all of them behind it
  const handQuery = useQuery({
    queryKey: ['in hand', stamp, settled, hand],
    queryFn: () => api.replay(settled, hand),
    enabled: draft !== undefined && hand !== null,
    ...lasting,
  });
  const handIsThere = hand === null || (handQuery.isSuccess && !handQuery.isPlaceholderData);
  // then those that the edited rule takes part in, but for loads; and then the rest
  const edited = useRef<string | null>(null);
  if (settled?.kind === 'rules') edited.current = settled.key;
  const touching = useMemo(() => {
    const key = edited.current;
    const loads = new Set(samples.filter((s) => s.tree.proves === 'load').map((s) => s.part.key));
    return key === null
      ? []
      : (last.current?.samples ?? []).filter((s) => key in s.rules && !loads.has(s.key)).map((s) => s.key);
  }, [samples, settled]);
  const touchQuery = useQuery({
    queryKey: ['touching', stamp, settled, touching],
    queryFn: () => api.replay(settled, null, touching),
    enabled: draft !== undefined && handIsThere && touching.length > 0,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 30_000,
  });
  const trees = useMemo(() => samples.map((sample) => sample.tree), [samples]);
  const all = useReplayOfAll(
    stamp,
    settled,
    trees,
    draft !== undefined && handIsThere && (touching.length === 0 || !touchQuery.isFetching),
  );

  const takeInHand = useCallback((key: string) => {
    sessionStorage.setItem('in hand', key);
    setHandKey(key);
    setStep(0);
  }, []);

  const change = useCallback(
    (act: (old: Draft) => Draft) => client.setQueryData(['draft'], (old: Draft | undefined) => (old ? act(old) : old)),
    [client],
  );

  const saved = useCallback(
    (kind: Kind, answer: SavedPart, position?: number) =>
      change((old) => {
        const list = [...old[kind]];
        const at = list.findIndex((part) => part.key === answer.part.key);
        if (at >= 0) list[at] = answer.part;
        else list.splice(position ?? list.length, 0, answer.part);
        return { ...old, [kind]: list, changes: answer.changes };
      }),
    [change],
  );
  const gone = useCallback(
    (kind: Kind, key: string, changes: Change[]) =>
      change((old) => ({ ...old, [kind]: old[kind].filter((part) => part.key !== key), changes })),
    [change],
  );
  const ordered = useCallback(
    (keys: string[], changes: Change[]) =>
      change((old) => ({
        ...old,
        rules: keys.flatMap((key) => old.rules.filter((part) => part.key === key)),
        changes,
      })),
    [change],
  );

  const lexicon = useMemo(
    () =>
      new Lexicon(
        (draft?.types ?? []).map((p) => p.tree as unknown as TypeTree),
        draft?.people ?? [],
        draft?.teams ?? [],
        {},
        draft?.timezone,
      ),
    [draft],
  );

  if (draftQuery.isError) {
    const problem = Problem.of(draftQuery.error);
    return (
      <main className="p-10">
        <h1>{problem.message}</h1>
        <p className="mt-2 max-w-[60ch]">{problem.detail}</p>
        <button type="button" className="btn mt-4" onClick={() => draftQuery.refetch()}>
          Try again
        </button>
      </main>
    );
  }
  if (!draft) return <main className="soft p-10">Reading the rulebook …</main>;

  // while what is being typed cannot be replayed, the last replay stays in sight
  if (all.data) last.current = all.data;
  if (handQuery.data) lastHand.current = handQuery.data;
  const whole = last.current;
  const fresh = !all.fresh ? (touchQuery.data?.samples ?? []) : [];
  const replay = whole && fresh.length > 0 ? withFresh(whole, fresh) : whole;
  const inHandNow = lastHand.current;
  const results = new Map([...(replay?.samples ?? []), ...(inHandNow?.samples ?? [])].map((one) => [one.key, one]));
  const numbered = samples.map((sample) => ({ ...sample, result: results.get(sample.part.key) }));
  const inHand = numbered.find((sample) => sample.part.key === hand) ?? numbered[0];
  const given = Object.fromEntries(
    Object.entries(inHand?.tree.given ?? {}).flatMap(([type, records]) =>
      records.map((record) => {
        const name = record[lexicon.type(type)?.name_field ?? 'title'];
        return [record.id, typeof name === 'string' ? name : record.id];
      }),
    ),
  );
  const steps = inHandNow?.traced && inHandNow.traced.key === inHand?.part.key ? inHandNow.traced.steps : [];
  const at = Math.min(step, Math.max(0, (inHand?.tree.steps.length ?? 1) - 1));
  const traced = steps[at];
  const failed = handQuery.error ?? all.error;
  const problem = failed ? Problem.of(failed) : null;
  const value: Workshop = {
    draft,
    stamp,
    lexicon: lexicon.with(given),
    rules: draft.rules.map((part) => ({ part, tree: part.tree as unknown as RuleTree })),
    tables: draft.tables.map((part) => ({ part, tree: part.tree as unknown as TableTree })),
    mirrors: draft.mirrors.map((part) => ({ part, tree: part.tree as unknown as MirrorTree })),
    guards: draft.guards.map((part) => ({ part, tree: part.tree as unknown as GuardTree })),
    types: draft.types.map((part) => part.tree as unknown as TypeTree),
    samples: numbered,
    replay,
    replaying: handQuery.isFetching || all.fetching,
    progress: all.progress,
    problem,
    trouble: tried === null && settled === null ? problem : null,
    inHand,
    takeInHand,
    step: at,
    setStep,
    traced,
    tracedSteps: steps,
    lookOf: (rule) =>
      traced?.trace?.passes
        .flatMap((pass) => pass.rules)
        .filter((look) => look.rule === rule)
        .at(-1),
    tryOut,
    replayAll: () => {
      handQuery.refetch();
      all.again();
    },
    saved,
    gone,
    ordered,
    reload: () => client.invalidateQueries({ queryKey: ['draft'] }),
  };
  return <Context value={value}>{children}</Context>;
}

/** The last replay of all, with what is known newer of some. */
function withFresh(whole: Replay, fresh: ReplayedSample[]): Replay {
  const newer = new Map(fresh.map((one) => [one.key, one]));
  const samples = whole.samples.map((one) => newer.get(one.key) ?? one);
  const count = (verdict: string) => samples.filter((one) => one.verdict === verdict).length;
  return {
    ...whole,
    samples,
    totals: { agrees: count('agrees'), differs: count('differs'), broken: count('broken') },
  };
}

export function useWorkshop(): Workshop {
  const workshop = useContext(Context);
  if (!workshop) throw new Error('This screen belongs in the workshop.');
  return workshop;
}

export const useMaybeWorkshop = (): Workshop | null => useContext(Context);
