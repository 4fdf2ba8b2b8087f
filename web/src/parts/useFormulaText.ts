import { useEffect, useRef, useState } from 'react';
import type { InputError } from '../api/client';
import { callAt, complete, proposal, type World } from './complete';
import type { EditorHandle } from './FormulaEditor';
import { type Dialect, nameAt } from './feel';

/** A formula as it is typed: the text, the caret, what can be put there, what an error proposes. */
export function useFormulaText(
  start: string,
  dialect: Dialect,
  world: World | undefined,
  mistake: InputError | undefined,
) {
  const [text, setText] = useState(start);
  const [caret, setCaret] = useState(start.length);
  const [picked, setPicked] = useState<number | null>(null);
  const editor = useRef<EditorHandle>(null);
  useEffect(() => {
    setText(start);
    editor.current?.set(start, start.length);
  }, [start]);
  const typed = (next: string, at: number) => {
    setText(next);
    setCaret(at);
    setPicked(null);
  };
  /** Text that was not typed, and the caret after it. */
  const put = (next: string, at = next.length) => {
    typed(next, at);
    editor.current?.set(next, at);
    editor.current?.focus();
  };
  return {
    text,
    caret,
    picked,
    setPicked,
    setCaret,
    typed,
    put,
    editor,
    completion: world ? complete(text, caret, world) : null,
    call: world ? callAt(text, caret, world) : null,
    mend: proposal(text, mistake),
    tell: useTelling(text, caret, dialect, world),
  };
}

/** What the name at the caret stands for, once it has been found out. */
function useTelling(text: string, caret: number, dialect: Dialect, world: World | undefined): string | null {
  const [words, setWords] = useState<string | null>(null);
  const name = nameAt(text, caret, dialect)?.source ?? null;
  const tell = world?.tell;
  useEffect(() => {
    setWords(null);
    if (!name || !tell) return;
    let current = true;
    const timer = setTimeout(() => tell(name).then((found) => current && setWords(found)), 200);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [name, tell]);
  return words;
}
