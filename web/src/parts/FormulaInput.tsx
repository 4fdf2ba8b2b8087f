import { useEffect, useId, useState } from 'react';

interface Props {
  value: string;
  label: string;
  placeholder?: string;
  mistake?: string | undefined;
  wide?: boolean;
  autoFocus?: boolean;
  options?: string[];
  onKeep: (text: string) => void;
  /** With each key; null when the edit is dropped. */
  onTyping?: (text: string | null) => void;
}

/** A formula on one line: kept with Enter or on leaving, dropped with Esc. */
export function FormulaInput({
  value,
  label,
  placeholder,
  mistake,
  wide,
  autoFocus,
  options,
  onKeep,
  onTyping,
}: Props) {
  const [text, setText] = useState(value);
  const list = useId();
  useEffect(() => setText(value), [value]);
  const keep = () => {
    if (text.trim() !== value || autoFocus) onKeep(text.trim());
    else onTyping?.(null);
  };
  return (
    <span className={`flex flex-col ${wide ? 'min-w-[380px] flex-1' : 'min-w-[170px]'}`}>
      <input
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
        onChange={(event) => {
          setText(event.target.value);
          onTyping?.(event.target.value);
        }}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
          if (event.key === 'Escape') {
            setText(value);
            onTyping?.(null);
          }
        }}
      />
      {options && (
        <datalist id={list}>
          {options.map((option) => (
            <option key={option} value={option} />
          ))}
        </datalist>
      )}
      {mistake && (
        <span role="alert" className="text-[12.5px] text-red">
          ✕ {mistake}
        </span>
      )}
    </span>
  );
}
