import { useId, useRef } from 'react';
import type { InputError } from '../api/client';
import type { World } from './complete';
import { FormulaEditor } from './FormulaEditor';
import { type Dialect, placeOf } from './feel';
import { FormulaMenu, Mend } from './Proposals';
import { useFormulaText } from './useFormulaText';

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
  dialect: Dialect;
  onTyping: (text: string) => void;
  onKeep: (text: string, rowBy: number, columnBy: number) => void;
  onLeave: () => void;
  /** Where the cell is a text that can be put together. */
  onCompose?: ((text: string) => void) | undefined;
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
export function CellEditor({
  start,
  suggestions,
  mistake,
  world,
  dialect,
  onTyping,
  onKeep,
  onLeave,
  onCompose,
}: Props) {
  const formula = useFormulaText(start, dialect, world, mistake);
  const { text, picked, setPicked, mend } = formula;
  // leaving moves the focus, which must not count as leaving once more
  const over = useRef(false);
  const list = useId();
  const whole = fitting(text, start, suggestions);
  // words pick a whole value; in a formula the word at the caret is completed
  const completion = whole.length > 0 ? null : formula.completion;
  const listed = completion?.items ?? whole;
  // a formula in the making needs no scolding while there is something to complete it with
  const unfinished =
    mistake?.detail.endsWith('the end of the formula.') ||
    (mistake?.to != null && placeOf(text, mistake.to) === formula.caret);
  const told = listed.length > 0 && unfinished && !mend ? undefined : mistake;
  // words that are no formula of their own pick the first that fits
  const bare = /^[\p{L}][\p{L}\d _-]*$/u.test(text.trim()) && text !== start;
  const exact = completion !== null || listed.some((s) => s.insert === text.trim());
  const highlighted =
    picked ??
    (text.length > 0 && (bare || (start.length === 1 && text === start && /\p{L}/u.test(text))) && !exact ? 0 : null);

  const keep = (value: string, rowBy: number, columnBy: number) => {
    if (over.current) return;
    over.current = true;
    onKeep(value, rowBy, columnBy);
  };
  const leave = () => {
    over.current = true;
    onLeave();
  };
  const compose = () => {
    over.current = true;
    onCompose?.(text);
  };
  const result = (): string => (highlighted === null ? text : (listed[highlighted]?.insert ?? text));
  const typing = (value: string) => {
    const [first] = fitting(value, start, suggestions);
    const words = /^[\p{L}][\p{L}\d _-]*$/u.test(value.trim());
    onTyping(words && first ? first.insert : value);
  };
  const put = (value: string, at?: number) => {
    formula.put(value, at);
    typing(value);
  };
  const pick = (insert: string) =>
    completion
      ? put(text.slice(0, completion.from) + insert + text.slice(completion.to), completion.from + insert.length)
      : keep(insert, 0, 0);
  const onKey = (event: KeyboardEvent): boolean => {
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
    if (chosen !== undefined && (event.key === 'Enter' || event.key === 'Tab')) acts[event.key] = () => pick(chosen);
    if (event.altKey && event.key.toLowerCase() === 't' && onCompose) acts[event.key] = compose;
    if (event.altKey && event.key === 'Enter' && mend) acts.Enter = () => put(mend.text);
    const act = acts[event.key];
    event.stopPropagation();
    if (!act) return false;
    event.preventDefault();
    act();
    return true;
  };
  return (
    <>
      <FormulaEditor
        ref={formula.editor}
        text={text}
        dialect={dialect}
        label="Cell"
        test="cell-input"
        mistake={told}
        enter={start.length > 1 ? 'all' : 'end'}
        list={{
          id: list,
          open: listed.length > 0,
          active: highlighted === null ? undefined : `${list}-${highlighted}`,
        }}
        tell={world.tell}
        onText={(next, at) => {
          formula.typed(next, at);
          typing(next);
        }}
        onCaret={formula.setCaret}
        onKey={onKey}
        onBlur={() => keep(text === start ? start : result(), 0, 0)}
      />
      <FormulaMenu
        id={list}
        items={listed}
        at={highlighted}
        call={formula.call}
        told={formula.tell}
        onPick={pick}
        top={34}
      >
        {told && (
          <div className="border-b border-line bg-redbg px-3 py-1.5 text-[13px] whitespace-normal" role="alert">
            ✕ {told.detail}
            {mend && <Mend word={mend.word} onMend={() => put(mend.text)} />}
          </div>
        )}
        {onCompose && (
          <button
            type="button"
            className="link px-3 py-1"
            onMouseDown={(event) => {
              event.preventDefault();
              compose();
            }}
          >
            put it together from text and fields <span className="key">Alt T</span>
          </button>
        )}
      </FormulaMenu>
    </>
  );
}
