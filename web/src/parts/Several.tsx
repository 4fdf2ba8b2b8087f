import { useState } from 'react';

interface Props {
  options: { key: string; label: string }[];
  chosen: string[];
  label: string;
  invalid?: boolean;
  autoFocus?: boolean;
  onChosen: (chosen: string[]) => void;
}

/** Several out of a list: chosen ones first when it is opened, found by their words when there are many. */
export function Several({ options, chosen, label, invalid, autoFocus, onChosen }: Props) {
  const [words, setWords] = useState('');
  // the order stays while boxes are ticked
  const [order] = useState(() => new Set(chosen));
  const fits = options.filter((option) => option.label.toLowerCase().includes(words.trim().toLowerCase()));
  const shown = [...fits.filter((o) => order.has(o.key)), ...fits.filter((o) => !order.has(o.key))];
  const isLong = options.length > 8;
  return (
    <fieldset className="field p-0!" aria-label={label} aria-invalid={invalid ?? false}>
      {isLong && (
        <input
          className="w-full border-b border-line bg-sheet px-2 py-1 outline-none"
          placeholder="Find"
          aria-label={`Find in ${label}`}
          // biome-ignore lint/a11y/noAutofocus: it has just been asked for
          autoFocus={autoFocus}
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
      )}
      <div className="max-h-[168px] overflow-auto py-1">
        {shown.map((option, i) => (
          <label key={option.key} className="flex items-center gap-2 px-2 leading-6 hover:bg-tealbg">
            <input
              type="checkbox"
              // biome-ignore lint/a11y/noAutofocus: it has just been asked for
              autoFocus={autoFocus && !isLong && i === 0}
              checked={chosen.includes(option.key)}
              onChange={(event) =>
                onChosen(event.target.checked ? [...chosen, option.key] : chosen.filter((key) => key !== option.key))
              }
            />
            {option.label}
          </label>
        ))}
        {shown.length === 0 && (
          <p className="soft px-2">
            {options.length === 0 ? 'There is nothing to choose.' : 'Nothing is called that.'}
          </p>
        )}
      </div>
    </fieldset>
  );
}
