import { useId, useState } from 'react';
import type { InputError } from '../api/client';
import type { World } from './complete';
import { FormulaEditor } from './FormulaEditor';
import type { Dialect } from './feel';
import { FormulaMenu, Mend } from './Proposals';
import { useFormulaText } from './useFormulaText';

interface Props {
  value: string;
  label: string;
  placeholder?: string;
  mistake?: InputError | undefined;
  wide?: boolean;
  autoFocus?: boolean;
  dialect?: Dialect;
  /** What the formula may name; without it nothing is completed. */
  world?: World;
  onKeep: (text: string) => void;
  /** With each key; null when the edit is dropped. */
  onTyping?: (text: string | null) => void;
}

/** A formula in a field: completed as it is typed, kept with Enter or on leaving, dropped with Esc. */
export function FormulaInput({
  value,
  label,
  placeholder,
  mistake,
  wide,
  autoFocus,
  dialect = 'expression',
  world,
  onKeep,
  onTyping,
}: Props) {
  const formula = useFormulaText(value, dialect, world, mistake);
  const { text, picked, setPicked, mend, editor } = formula;
  const [focused, setFocused] = useState(false);
  const [asked, setAsked] = useState(false);
  const list = useId();
  const items = focused && (text !== value || asked) ? (formula.completion?.items ?? []) : [];
  const call = focused ? formula.call : null;
  const keep = () => {
    setFocused(false);
    setAsked(false);
    if (text.trim() !== value || autoFocus) onKeep(text.trim());
    else onTyping?.(null);
  };
  const put = (next: string, at?: number) => {
    formula.put(next, at);
    onTyping?.(next);
  };
  const pick = (insert: string) => {
    const at = formula.completion;
    if (at) put(text.slice(0, at.from) + insert + text.slice(at.to), at.from + insert.length);
  };
  const onKey = (event: KeyboardEvent): boolean => {
    const chosen = picked === null ? undefined : items[picked]?.insert;
    const move = (by: number) =>
      setPicked(picked === null ? (by > 0 ? 0 : items.length - 1) : (picked + by + items.length) % items.length);
    if (event.key === 'Enter' && event.altKey && mend) put(mend.text);
    else if ((event.key === 'Enter' || event.key === 'Tab') && !event.shiftKey && chosen !== undefined) pick(chosen);
    else if (event.key === 'Enter' && !event.shiftKey) editor.current?.blur();
    else if (event.key === ' ' && event.ctrlKey) setAsked(true);
    else if ((event.key === 'ArrowDown' || event.key === 'ArrowUp') && items.length > 0) {
      move(event.key === 'ArrowDown' ? 1 : -1);
    } else if (event.key === 'Escape') {
      formula.put(value);
      setAsked(false);
      onTyping?.(null);
    } else return false;
    event.preventDefault();
    return true;
  };
  return (
    <span className={`relative flex flex-col ${wide ? 'min-w-[380px] flex-1' : 'min-w-[170px]'}`}>
      <FormulaEditor
        ref={editor}
        text={text}
        dialect={dialect}
        label={label}
        placeholder={placeholder}
        mistake={mistake}
        enter={autoFocus ? 'end' : undefined}
        list={{ id: list, open: items.length > 0, active: picked === null ? undefined : `${list}-${picked}` }}
        tell={world?.tell}
        onText={(next, at) => {
          formula.typed(next, at);
          onTyping?.(next);
        }}
        onCaret={formula.setCaret}
        onKey={onKey}
        onFocus={() => setFocused(true)}
        onBlur={keep}
      />
      {focused && (
        <FormulaMenu id={list} items={items} at={picked} call={call} told={formula.tell} onPick={pick} top={30} />
      )}
      {mistake && (
        <span role="alert" className="text-[12.5px] text-red">
          ✕ {mistake.detail}
          {mend && <Mend word={mend.word} onMend={() => put(mend.text)} />}
        </span>
      )}
    </span>
  );
}
