import { startTransition, useCallback, useEffect, useRef, useState } from 'react';
import { api, type InputError, type Kind, type Part, Problem } from '../api/client';
import { useWorkshop } from './workshop';

export interface EditedPart<T> {
  /** The tree as it stands on the screen, saved or not. */
  tree: T;
  /** The tree with what is being typed and is not kept yet. */
  shown: T;
  part: Part;
  status: 'saved' | 'saving' | 'not saved';
  /** Why it could not be saved or replayed, and where. */
  problem: Problem | null;
  /** The problem, when no place in the tree shows it, or when the edit was not saved for it. */
  note: Problem | null;
  /** By JSON pointer into the tree. */
  errors: Map<string, InputError>;
  /** Keeps an edit: one step of undo, saved at once. */
  edit: (tree: T) => void;
  /** Shows what an edit in the making would come to, without keeping it; null when it is dropped. */
  typing: (tree: T | null) => void;
  undo: () => void;
  redo: () => void;
  canUndo: boolean;
  canRedo: boolean;
  /** Somebody saved it since: their part; null when there is nothing to settle. */
  conflict: Part | null;
  settle: (whose: 'mine' | 'theirs') => void;
}

interface History<T> {
  past: T[];
  future: T[];
}

/** One part of the draft being edited: saved with every edit, undone and redone, and never overwritten silently. */
export function usePart<T extends object>(kind: Kind, key: string): EditedPart<T> | undefined {
  const shop = useWorkshop();
  const part = shop.draft[kind].find((p) => p.key === key);
  const [local, setLocal] = useState<T | null>(null);
  const [typed, setTyped] = useState<T | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [status, setStatus] = useState<'saved' | 'saving' | 'not saved'>('saved');
  const [conflict, setConflict] = useState<Part | null>(null);
  const [history, setHistory] = useState<History<T>>({ past: [], future: [] });
  const wanted = useRef<T | null>(null);
  const busy = useRef(false);
  const version = useRef(0);
  const { tryOut, saved } = shop;

  if (part && !busy.current && !conflict && wanted.current === null) version.current = part.version;

  useEffect(() => {
    setLocal(null);
    setTyped(null);
    setProblem(null);
    setStatus('saved');
    setConflict(null);
    setHistory({ past: [], future: [] });
    wanted.current = null;
    return () => tryOut(null);
  }, [key, kind, tryOut]);

  useEffect(() => {
    const shown = typed ?? local;
    // what is tried out may come a moment later than the letters
    startTransition(() => tryOut(shown ? { kind, key, tree: shown } : null));
  }, [typed, local, kind, key, tryOut]);

  // an edit still on its way, or refused, is not left behind without a question
  useEffect(() => {
    const ask = (e: BeforeUnloadEvent) => wanted.current !== null && e.preventDefault();
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, []);

  const push = useCallback(async () => {
    if (busy.current) return;
    busy.current = true;
    while (wanted.current !== null) {
      const tree = wanted.current;
      setStatus('saving');
      try {
        const answer = await api.savePart(kind, key, tree, version.current);
        version.current = answer.part.version;
        saved(kind, answer);
        if (wanted.current === tree) {
          wanted.current = null;
          setLocal(null);
          setStatus('saved');
          setProblem(null);
        }
      } catch (error) {
        const why = Problem.of(error);
        if (wanted.current === tree) {
          setStatus('not saved');
          if (why.status === 412) setConflict(why.current as Part);
          else setProblem(why);
          break;
        }
      }
    }
    busy.current = false;
  }, [kind, key, saved]);

  const want = useCallback(
    (tree: T) => {
      wanted.current = tree;
      setTyped(null);
      setLocal(tree);
      setProblem(null);
      void push();
    },
    [push],
  );

  if (!part) return undefined;
  const tree = local ?? (part.tree as unknown as T);
  const shown = problem ?? (typed || local ? shop.problem : null);
  const errors = new Map<string, InputError>();
  for (const error of shown?.errors ?? []) {
    const pointer = error.pointer.replace(/^\/tree/, '');
    if (!errors.has(pointer)) errors.set(pointer, error);
  }
  return {
    tree,
    shown: typed ?? tree,
    part,
    status,
    problem: shown,
    note:
      shown && (status === 'not saved' || shown.errors.every((e) => !e.pointer.startsWith('/tree/'))) ? shown : null,
    errors,
    edit: (next) => {
      if (JSON.stringify(next) === JSON.stringify(tree)) {
        setTyped(null);
        return;
      }
      setHistory({ past: [...history.past, tree].slice(-200), future: [] });
      want(next);
    },
    typing: setTyped,
    undo: () => {
      const last = history.past.at(-1);
      if (!last) return;
      setHistory({ past: history.past.slice(0, -1), future: [tree, ...history.future] });
      want(last);
    },
    redo: () => {
      const [next, ...rest] = history.future;
      if (!next) return;
      setHistory({ past: [...history.past, tree], future: rest });
      want(next);
    },
    canUndo: history.past.length > 0,
    canRedo: history.future.length > 0,
    conflict,
    settle: (whose) => {
      if (!conflict) return;
      version.current = conflict.version;
      setConflict(null);
      if (whose === 'mine') {
        void push();
        return;
      }
      // what was mine stays one undo away
      setHistory({ past: [...history.past, tree], future: [] });
      wanted.current = null;
      setLocal(null);
      setStatus('saved');
      saved(kind, { part: conflict, changes: shop.draft.changes });
      shop.reload();
    },
  };
}
