import type { Suggestion } from './CellEditor';

/** What can be picked, under the formula that is being typed. */
export function Proposals({
  items,
  at,
  onPick,
}: {
  items: Suggestion[];
  at: number | null;
  onPick: (insert: string) => void;
}) {
  return items.map((item, i) => (
    <div
      key={`${item.insert} ${item.detail}`}
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
  ));
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
