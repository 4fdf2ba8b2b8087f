import { type KeyboardEvent, useEffect, useId, useRef, useState } from 'react';
import type { InputError } from '../api/client';
import { callAt, complete, proposal, signature, type World } from './complete';
import { Mend, Proposals } from './Proposals';

interface Props {
  value: string;
  label: string;
  placeholder?: string;
  mistake?: InputError | undefined;
  wide?: boolean;
  autoFocus?: boolean;
  options?: string[];
  /** What the formula may name; without it nothing is completed. */
  world?: World;
  onKeep: (text: string) => void;
  /** With each key; null when the edit is dropped. */
  onTyping?: (text: string | null) => void;
}

/** A formula on one line: completed as it is typed, kept with Enter or on leaving, dropped with Esc. */
export function FormulaInput({
  value,
  label,
  placeholder,
  mistake,
  wide,
  autoFocus,
  options,
  world,
  onKeep,
  onTyping,
}: Props) {
  const [text, setText] = useState(value);
  const [caret, setCaret] = useState(0);
  const [focused, setFocused] = useState(false);
  const [picked, setPicked] = useState<number | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const list = useId();
  useEffect(() => setText(value), [value]);
  const completion = world && focused && text !== value ? complete(text, caret, world) : null;
  const items = completion?.items ?? [];
  const call = world && focused ? callAt(text, caret, world) : null;
  const mend = proposal(text, mistake);
  const keep = () => {
    setFocused(false);
    if (text.trim() !== value || autoFocus) onKeep(text.trim());
    else onTyping?.(null);
  };
  const set = (next: string, at: number) => {
    setText(next);
    setCaret(at);
    setPicked(null);
    onTyping?.(next);
    requestAnimationFrame(() => input.current?.setSelectionRange(at, at));
  };
  const put = (insert: string) =>
    completion &&
    set(text.slice(0, completion.from) + insert + text.slice(completion.to), completion.from + insert.length);
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    const chosen = picked === null ? undefined : items[picked]?.insert;
    const move = (by: number) =>
      items.length > 0 &&
      setPicked(picked === null ? (by > 0 ? 0 : items.length - 1) : (picked + by + items.length) % items.length);
    const done = () => event.preventDefault();
    if (event.key === 'Enter' && event.altKey && mend) {
      set(mend.text, mend.text.length);
      done();
    } else if ((event.key === 'Enter' || event.key === 'Tab') && chosen !== undefined) {
      put(chosen);
      done();
    } else if (event.key === 'Enter') event.currentTarget.blur();
    else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      move(event.key === 'ArrowDown' ? 1 : -1);
      done();
    } else if (event.key === 'Escape') {
      setText(value);
      setPicked(null);
      onTyping?.(null);
    }
  };
  return (
    <span className={`relative flex flex-col ${wide ? 'min-w-[380px] flex-1' : 'min-w-[170px]'}`}>
      <input
        ref={input}
        className="field mono"
        aria-label={label}
        aria-invalid={mistake !== undefined}
        placeholder={placeholder}
        value={text}
        spellCheck={false}
        autoComplete="off"
        list={options ? list : undefined}
        // biome-ignore lint/a11y/noAutofocus: it has just been asked for
        autoFocus={autoFocus}
        onFocus={() => setFocused(true)}
        onChange={(event) => {
          setText(event.target.value);
          setCaret(event.target.selectionStart ?? event.target.value.length);
          setPicked(null);
          onTyping?.(event.target.value);
        }}
        onSelect={(event) => setCaret(event.currentTarget.selectionStart ?? text.length)}
        onBlur={keep}
        onKeyDown={onKeyDown}
      />
      {options && (
        <datalist id={list}>
          {options.map((option) => (
            <option key={option} value={option} />
          ))}
        </datalist>
      )}
      {(items.length > 0 || call) && (
        <div className="menu absolute top-[30px] left-0 w-max max-w-[460px] min-w-[240px]" role="listbox" tabIndex={-1}>
          {call && <div className="mono soft border-b border-line px-3 py-1">{signature(call.help)}</div>}
          <Proposals items={items} at={picked} onPick={put} />
        </div>
      )}
      {mistake && (
        <span role="alert" className="text-[12.5px] text-red">
          ✕ {mistake.detail}
          {mend && <Mend word={mend.word} onMend={() => set(mend.text, mend.text.length)} />}
        </span>
      )}
    </span>
  );
}
