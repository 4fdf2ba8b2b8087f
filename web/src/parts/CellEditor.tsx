import { type KeyboardEvent, useEffect, useRef, useState } from 'react';
import type { InputError } from '../api/client';
import { callAt, complete, proposal, signature, type World } from './complete';
import { Mend, Proposals } from './Proposals';

export interface Suggestion {
  label: string;
  detail: string;
  /** The formula that picking it writes. */
  insert: string;
}

interface Props {
  start: string;
  suggestions: Suggestion[];
  mistake: InputError | undefined;
  /** What a formula may name here. */
  world: World;
  onTyping: (text: string) => void;
  onKeep: (text: string, rowBy: number, columnBy: number) => void;
  onLeave: () => void;
}

/** What fits the words typed so far; nothing while a formula is being typed. */
export function fitting(text: string, start: string, suggestions: Suggestion[]): Suggestion[] {
  const words = text.trim().toLowerCase();
  if (text === start && !/^[\p{L}]/u.test(words)) return suggestions.slice(0, 60);
  if (words === '') return suggestions.slice(0, 60);
  if (!/^[\p{L}\d _-]+$/u.test(words)) return [];
  const begins = (s: Suggestion) => s.label.toLowerCase().startsWith(words) || s.detail.toLowerCase().startsWith(words);
  const holds = (s: Suggestion) => s.label.toLowerCase().includes(words);
  return [...suggestions.filter(begins), ...suggestions.filter((s) => !begins(s) && holds(s))].slice(0, 60);
}

/** The text of one cell: a formula, or words that pick an option, a person or a record. */
export function CellEditor({ start, suggestions, mistake, world, onTyping, onKeep, onLeave }: Props) {
  const [text, setText] = useState(start);
  const [picked, setPicked] = useState<number | null>(null);
  const input = useRef<HTMLInputElement>(null);
  // leaving moves the focus, which must not count as leaving once more
  const over = useRef(false);
  const [caret, setCaret] = useState(start.length);
  const whole = fitting(text, start, suggestions);
  // words pick a whole value; in a formula the word at the caret is completed
  const completion = whole.length > 0 ? null : complete(text, caret, world);
  const listed = completion?.items ?? whole;
  const call = callAt(text, caret, world);
  const mend = proposal(text, mistake);
  // a formula in the making needs no scolding while there is something to complete it with
  const told = listed.length > 0 && mistake?.detail.endsWith('the end of the formula.') ? undefined : mistake;
  // words that are no formula of their own pick the first that fits
  const bare = /^[\p{L}][\p{L}\d _-]*$/u.test(text.trim()) && text !== start;
  const exact = completion !== null || listed.some((s) => s.insert === text.trim());
  const highlighted =
    picked ??
    (text.length > 0 && (bare || (start.length === 1 && text === start && /\p{L}/u.test(text))) && !exact ? 0 : null);

  useEffect(() => {
    const element = input.current;
    element?.focus();
    if (element && start.length > 1) element.select();
  }, [start.length]);

  const keep = (value: string, rowBy: number, columnBy: number) => {
    if (over.current) return;
    over.current = true;
    onKeep(value, rowBy, columnBy);
  };
  const leave = () => {
    over.current = true;
    onLeave();
  };
  const result = (): string => (highlighted === null ? text : (listed[highlighted]?.insert ?? text));
  const set = (value: string, at = value.length) => {
    setText(value);
    setCaret(at);
    setPicked(null);
    const [first] = fitting(value, start, suggestions);
    const words = /^[\p{L}][\p{L}\d _-]*$/u.test(value.trim());
    onTyping(words && first ? first.insert : value);
  };
  /** Puts a proposal at the caret and goes on editing. */
  const put = (insert: string) => {
    if (!completion) return;
    const at = completion.from + insert.length;
    set(text.slice(0, completion.from) + insert + text.slice(completion.to), at);
    requestAnimationFrame(() => input.current?.setSelectionRange(at, at));
  };
  const pick = (insert: string) => (completion ? put(insert) : keep(insert, 0, 0));
  const onKeyDown = (event: KeyboardEvent) => {
    const move = (by: number) => {
      if (listed.length === 0) return;
      const next = picked === null ? (by > 0 ? 0 : listed.length - 1) : (picked + by + listed.length) % listed.length;
      setPicked(next);
      if (!completion) onTyping(listed[next]?.insert ?? text);
    };
    const acts: Record<string, () => void> = {
      ArrowDown: () => move(1),
      ArrowUp: () => move(-1),
      Enter: () => keep(result(), 1, 0),
      Tab: () => keep(result(), 0, event.shiftKey ? -1 : 1),
      Escape: leave,
    };
    const chosen = completion && picked !== null ? listed[picked]?.insert : undefined;
    if (chosen !== undefined && (event.key === 'Enter' || event.key === 'Tab')) acts[event.key] = () => put(chosen);
    if (event.altKey && event.key === 'Enter' && mend) acts.Enter = () => set(mend.text);
    const act = acts[event.key];
    event.stopPropagation();
    if (act) {
      event.preventDefault();
      act();
    }
  };
  return (
    <>
      <input
        ref={input}
        value={text}
        aria-label="Cell"
        aria-invalid={mistake !== undefined}
        data-test="cell-input"
        spellCheck={false}
        autoComplete="off"
        onChange={(event) => set(event.target.value, event.target.selectionStart ?? event.target.value.length)}
        onSelect={(event) => setCaret(event.currentTarget.selectionStart ?? text.length)}
        onKeyDown={onKeyDown}
        onBlur={() => keep(text === start ? start : result(), 0, 0)}
      />
      {(listed.length > 0 || told || call) && (
        <div className="menu absolute top-[34px] left-0 w-max min-w-full max-w-[420px]" role="listbox" tabIndex={-1}>
          {told && (
            <div className="border-b border-line bg-redbg px-3 py-1.5 text-[13px] whitespace-normal" role="alert">
              ✕ {told.detail}
              {mend && <Mend word={mend.word} onMend={() => set(mend.text)} />}
            </div>
          )}
          {call && <div className="mono soft border-b border-line px-3 py-1">{signature(call.help)}</div>}
          <Proposals items={listed} at={highlighted} onPick={pick} />
        </div>
      )}
    </>
  );
}
