import { useState } from 'react';
import type { OptionTree } from '../../api/trees';
import { keyFrom } from '../NewRuleDialog';
import { Arrows } from './Arrows';
import { moved } from './shape';
import { type User, Users } from './users';

/** Options with their keys and labels, in order; retired ones stay for the records that hold them. */
export function Options({
  options,
  steps,
  taken,
  usersOf,
  live,
  onOptions,
  onRename,
}: {
  options: OptionTree[];
  steps: boolean;
  /** Keys in use, also on the other step. */
  taken: string[];
  /** Null until it is known. */
  usersOf: (option: string) => User[] | null;
  /** Options that records may hold: they are retired, not removed. */
  live: Set<string>;
  onOptions: (options: OptionTree[]) => void;
  onRename: (option: string, label: string) => void;
}) {
  const [label, setLabel] = useState('');
  const [asked, setAsked] = useState<string | null>(null);
  const put = (i: number, option: OptionTree | null) =>
    onOptions(options.flatMap((old, j) => (i === j ? (option ? [option] : []) : [old])));
  const add = () => {
    if (label.trim() === '') return;
    onOptions([...options, { key: keyFrom(label, taken), label: label.trim() }]);
    setLabel('');
  };
  return (
    <div>
      {options.map((option, i) => {
        const isRetired = option.active === false;
        const users = usersOf(option.key);
        return (
          <div key={option.key} data-test={`option-${option.key}`}>
            <div
              className="flex items-center gap-1 py-0.5"
              onKeyDown={(e) => {
                if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) {
                  e.preventDefault();
                  onOptions(moved(options, i, e.key === 'ArrowUp' ? -1 : 1));
                }
              }}
            >
              <Label
                value={option.label}
                label={`Label of ${option.key}`}
                isStruck={isRetired}
                onKeep={(next) => put(i, { ...option, label: next })}
              />
              <button
                type="button"
                className="mono soft max-w-[92px] truncate hover:underline"
                title={`${option.key}: another key …`}
                onClick={() => onRename(option.key, option.label)}
              >
                {option.key}
              </button>
              <span className="flex-1" />
              <Arrows list={options} at={i} what={option.label} onMove={onOptions} />
              {isRetired ? (
                <button
                  type="button"
                  className="link text-[13px]"
                  onClick={() => {
                    const { active: _, ...rest } = option;
                    put(i, rest);
                  }}
                >
                  Take back
                </button>
              ) : live.has(option.key) ? (
                <button
                  type="button"
                  className="link text-[13px]"
                  disabled={users === null}
                  onClick={() =>
                    users && users.length > 0 && asked !== option.key
                      ? setAsked(option.key)
                      : put(i, { ...option, active: false })
                  }
                >
                  {asked === option.key ? 'Retire all the same' : 'Retire'}
                </button>
              ) : (
                <button type="button" className="link text-[13px]" onClick={() => put(i, null)}>
                  Remove
                </button>
              )}
            </div>
            {asked === option.key && !isRetired && (
              <p className="mb-1 text-[13px] text-ochre">
                It is named by <Users list={users ?? []} />.
              </p>
            )}
            {steps && (
              <div className="ml-5 border-l border-line pl-2">
                <Options
                  options={option.children ?? []}
                  steps={false}
                  taken={taken}
                  usersOf={usersOf}
                  live={live}
                  onOptions={(children) => {
                    const { children: _, ...rest } = option;
                    put(i, children.length > 0 ? { ...rest, children } : rest);
                  }}
                  onRename={onRename}
                />
              </div>
            )}
          </div>
        );
      })}
      <form
        className="mt-1 flex gap-1"
        onSubmit={(e) => {
          e.preventDefault();
          add();
        }}
      >
        <input
          className="field flex-1"
          placeholder={steps || options.length > 0 ? 'Another option' : 'Option'}
          aria-label="New option"
          value={label}
          onChange={(e) => setLabel(e.target.value)}
        />
        <button type="submit" className="btn" disabled={label.trim() === ''}>
          Add
        </button>
      </form>
    </div>
  );
}

/** A text that is kept on leaving it, or with Enter. */
export function Label({
  value,
  label,
  isStruck,
  wide,
  onKeep,
}: {
  value: string;
  label: string;
  isStruck?: boolean;
  wide?: boolean;
  onKeep: (value: string) => void;
}) {
  const [text, setText] = useState(value);
  const [from, setFrom] = useState(value);
  if (from !== value) {
    setFrom(value);
    setText(value);
  }
  return (
    <input
      className={`field ${wide ? 'w-full' : 'w-[150px] min-w-0 shrink'} ${isStruck ? 'text-soft line-through' : ''}`}
      aria-label={label}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text.trim() !== value && onKeep(text.trim())}
      onKeyDown={(e) => {
        if (e.key === 'Enter') e.currentTarget.blur();
        if (e.key === 'Escape') setText(value);
      }}
    />
  );
}
