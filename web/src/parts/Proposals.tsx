import type { ReactNode } from 'react';
import type { Suggestion } from './CellEditor';
import { type FunctionHelp, signature } from './complete';
import { FormulaText } from './FormulaText';

/** A function's parameters, the one at the caret marked, with an example. */
function Signature({ call }: { call: { help: FunctionHelp; parameter: number } }) {
  const { help, parameter } = call;
  const [example] = help.examples;
  return (
    <div className="px-3 py-1 whitespace-normal" data-test="signature">
      <span className="mono soft">
        {help.parameters.length === 0 ? signature(help) : `${help.name}(`}
        {help.parameters.map((name, i) => (
          <span key={name}>
            {i > 0 && ', '}
            <span className={i === Math.min(parameter, help.parameters.length - 1) ? 'font-bold text-ink' : undefined}>
              {i < help.required ? name : `${name}?`}
            </span>
          </span>
        ))}
        {help.parameters.length > 0 && (help.variadic ? ', …)' : ')')}
      </span>
      {example && (
        <span className="soft ml-3 text-[12.5px]">
          as in <FormulaText text={example} />
        </span>
      )}
    </div>
  );
}

interface Props {
  id: string;
  items: Suggestion[];
  at: number | null;
  call: { help: FunctionHelp; parameter: number } | null;
  /** What the name at the caret stands for. */
  told: string | null;
  top: number;
  onPick: (insert: string) => void;
  children?: ReactNode;
}

/** Under a formula that is being typed: its mistake, the function at the caret, what can be picked, what a name is. */
export function FormulaMenu({ id, items, at, call, told, top, onPick, children }: Props) {
  const quiet = items.length > 0 ? null : told;
  if (items.length === 0 && !call && !children && !quiet) return null;
  return (
    <div className="menu absolute left-0 w-max max-w-[460px] min-w-[200px]" style={{ top }}>
      {children}
      {call && <Signature call={call} />}
      {quiet && (
        <div className="soft px-3 py-1 text-[12.5px] whitespace-normal" role="status" data-test="told">
          {quiet}
        </div>
      )}
      <div role="listbox" id={id} aria-label="Proposals" tabIndex={-1} hidden={items.length === 0}>
        {items.map((item, i) => (
          <div
            key={`${item.insert} ${item.detail}`}
            id={`${id}-${i}`}
            role="option"
            tabIndex={-1}
            aria-selected={i === at}
            data-selected={i === at}
            className="menu-item"
            onMouseDown={(event) => {
              event.preventDefault();
              onPick(item.insert);
            }}
          >
            <span>{item.label}</span>
            <span className="soft mono">{item.detail}</span>
          </div>
        ))}
      </div>
    </div>
  );
}

/** One click, or Alt+Enter, puts what an error proposes. */
export function Mend({ word, onMend }: { word: string; onMend: () => void }) {
  return (
    <button
      type="button"
      className="link ml-2"
      data-test="mend"
      onMouseDown={(event) => {
        event.preventDefault();
        onMend();
      }}
    >
      use {word} <span className="key">Alt ↵</span>
    </button>
  );
}
