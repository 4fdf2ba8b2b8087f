import { useEffect, useState } from 'react';

interface Props {
  value: string;
  label: string;
  placeholder?: string;
  className?: string;
  onKeep: (text: string) => void;
}

/** Text that is edited where it stands. */
export function InPlaceText({ value, label, placeholder, className = '', onKeep }: Props) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const width = Math.max(8, (text || placeholder || '').length + 1);
  return (
    <input
      aria-label={label}
      className={`-ml-1 max-w-full border border-transparent bg-transparent px-1 hover:border-line focus:border-teal focus:bg-sheet ${className}`}
      style={className.includes('w-') ? undefined : { width: `${width}ch` }}
      placeholder={placeholder}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => text.trim() !== value && onKeep(text.trim())}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') setText(value);
      }}
    />
  );
}
