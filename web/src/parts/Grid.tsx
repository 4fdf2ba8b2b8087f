import { DropdownMenu, Popover } from 'radix-ui';
import { type KeyboardEvent, type ReactNode, useEffect, useRef, useState } from 'react';
import type { InputError } from '../api/client';
import { type Cell, quoted, type RowTree } from '../api/trees';
import type { Lexicon } from '../app/lexicon';
import { CellEditor, type Suggestion } from './CellEditor';
import type { World } from './complete';
import { Composer } from './compose/Composer';
import { FormulaText } from './FormulaText';

export interface GridColumn {
  id: string;
  side: 'if' | 'then';
  head: ReactNode;
  /** Menu entries of the column's head. */
  menu: { label: string; act: () => void; off?: boolean }[];
  suggestions: Suggestion[];
  /** The words for a quoted text, when it is an option, a person or a record. */
  say: (key: string) => string | null;
  /** Its cells are texts, which can be put together from text and fields; whose fields stand bare. */
  composes?: string | undefined;
}

interface Props {
  columns: GridColumn[];
  rows: RowTree[];
  onRows: (rows: RowTree[]) => void;
  /** Rows as they would be while a cell is typed; null when that is dropped. */
  onTyping: (rows: RowTree[] | null) => void;
  /** What is wrong with a cell, by row and column of its side. */
  wrong: (row: number, side: 'if' | 'then', index: number) => InputError | undefined;
  /** What a formula may name in it. */
  world: World;
  hit: (row: number) => boolean;
  /** What all samples together have touched: how often a row was hit, and of a check cell whether it was seen holding (1), failing (2), both (3) or neither (0); null where anything holds. */
  covered?: { hit: number; cells?: (number | null)[] }[] | undefined;
  margin?: (row: number) => ReactNode;
  marginHead?: ReactNode;
  lexicon: Lexicon;
}

interface At {
  row: number;
  column: number;
}

const clamp = (value: number, most: number): number => Math.max(0, Math.min(value, most));

/** A cell of a paste: dashes for nothing, option labels to keys, plain words to texts where only texts make sense. */
function pasted(text: string, column: GridColumn): string {
  const trimmed = text.trim();
  if (trimmed === '' || trimmed === '–' || trimmed === '—') return '-';
  const known = column.suggestions.find((s) => s.label.toLowerCase() === trimmed.toLowerCase());
  return known ? known.insert : trimmed;
}

function Shown({ cell, column, dashWords }: { cell: string; column: GridColumn; dashWords: string }) {
  if (cell === '-') return <span className="soft">{dashWords}</span>;
  const parts = cell.split(/,\s*/).map((part) => quoted(part));
  if (parts.every((part): part is string => part !== null)) {
    const words = parts.map((part) => column.say(part) ?? part);
    return <span title={cell}>{words.join(', ')}</span>;
  }
  return <FormulaText text={cell} dialect={column.side === 'if' ? 'unaryTests' : 'expression'} title={cell} />;
}

/** A decision grid, edited like a spreadsheet. */
export function Grid({ columns, rows, onRows, onTyping, wrong, world, hit, covered, margin, marginHead }: Props) {
  const [at, setAt] = useState<At>({ row: 0, column: 0 });
  const [anchor, setAnchor] = useState<At | null>(null);
  const [editing, setEditing] = useState<string | null>(null);
  const [composing, setComposing] = useState<string | null>(null);
  const [focused, setFocused] = useState(false);
  const root = useRef<HTMLTableElement>(null);
  const checks = columns.filter((column) => column.side === 'if').length;
  const row = clamp(at.row, rows.length - 1);
  const column = clamp(at.column, columns.length - 1);

  useEffect(() => {
    root.current?.querySelector('[data-at="true"]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  });

  const read = (list: RowTree[], r: number, c: number): string =>
    String((c < checks ? list[r]?.if[c] : list[r]?.then[c - checks]) ?? '-');
  const write = (list: RowTree[], r: number, c: number, text: string): RowTree[] =>
    list.map((old, i) => {
      if (i !== r) return old;
      const put = (cells: Cell[], at: number, count: number): Cell[] =>
        Array.from({ length: count }, (_, j) => (j === at ? text : (cells[j] ?? '-')));
      return c < checks
        ? { ...old, if: put(old.if, c, checks) }
        : { ...old, then: put(old.then, c - checks, columns.length - checks) };
    });
  const blank = (): RowTree => ({ if: Array(checks).fill('-'), then: Array(columns.length - checks).fill('-') });

  const move = (rowBy: number, columnBy: number, extend = false) => {
    setAnchor(extend ? (anchor ?? { row, column }) : null);
    setAt({ row: clamp(row + rowBy, rows.length - 1), column: clamp(column + columnBy, columns.length - 1) });
  };
  const refocus = () => root.current?.focus();
  const keep = (text: string, rowBy: number, columnBy: number) => {
    setEditing(null);
    setComposing(null);
    const value = text.trim() === '' ? '-' : text.trim();
    onTyping(null);
    if (value !== read(rows, row, column)) onRows(write(rows, row, column, value));
    let c = column + columnBy;
    let r = row + rowBy;
    if (c >= columns.length && r < rows.length - 1) {
      c = 0;
      r += 1;
    }
    setAnchor(null);
    setAt({ row: clamp(r, rows.length - 1), column: clamp(c, columns.length - 1) });
    refocus();
  };
  const leave = () => {
    setEditing(null);
    setComposing(null);
    onTyping(null);
    refocus();
  };
  const insert = (place: number, fresh: RowTree = blank()) => {
    onRows([...rows.slice(0, place), fresh, ...rows.slice(place)]);
    setAt({ row: place, column: 0 });
    setAnchor(null);
  };
  const remove = (place: number) => onRows(rows.filter((_, i) => i !== place));
  const swap = (from: number, to: number) => {
    const list = [...rows];
    const [moved] = list.splice(from, 1);
    if (!moved || to < 0 || to >= rows.length) return;
    list.splice(to, 0, moved);
    onRows(list);
    setAt({ row: to, column });
  };
  const block = () => {
    const other = anchor ?? { row, column };
    return {
      top: Math.min(row, other.row),
      bottom: Math.max(row, other.row),
      left: Math.min(column, other.column),
      right: Math.max(column, other.column),
    };
  };

  const onKeyDown = (event: KeyboardEvent) => {
    if (editing !== null || composing !== null || event.target !== root.current) return;
    const done = () => event.preventDefault();
    if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
      swap(row, row + (event.key === 'ArrowUp' ? -1 : 1));
      return done();
    }
    if (event.ctrlKey || event.metaKey) {
      if (event.key === 'Enter') {
        insert(rows.length === 0 ? 0 : row + 1);
        return done();
      }
      if (event.key === 'Backspace' || event.key === 'Delete') {
        if (rows.length > 0) remove(row);
        return done();
      }
      return;
    }
    if (event.altKey || rows.length === 0) return;
    switch (event.key) {
      case 'ArrowUp':
        move(-1, 0, event.shiftKey);
        return done();
      case 'ArrowDown':
        move(1, 0, event.shiftKey);
        return done();
      case 'ArrowLeft':
        move(0, -1, event.shiftKey);
        return done();
      case 'ArrowRight':
        move(0, 1, event.shiftKey);
        return done();
      case 'Home':
        setAt({ row, column: 0 });
        return done();
      case 'End':
        setAt({ row, column: columns.length - 1 });
        return done();
      case 'Tab': {
        const next = row * columns.length + column + (event.shiftKey ? -1 : 1);
        if (next < 0 || next >= rows.length * columns.length) return;
        setAnchor(null);
        setAt({ row: Math.floor(next / columns.length), column: next % columns.length });
        return done();
      }
      case 'Enter':
      case 'F2':
        setEditing(read(rows, row, column));
        return done();
      case 'Delete':
      case 'Backspace': {
        const { top, bottom, left, right } = block();
        let list = rows;
        for (let r = top; r <= bottom; r++) for (let c = left; c <= right; c++) list = write(list, r, c, '-');
        onRows(list);
        return done();
      }
      case 'Escape':
        setAnchor(null);
        return done();
      default:
        if (event.key.length === 1) {
          // E opens the cell as it is; any other letter starts a new text
          setEditing(event.key.toLowerCase() === 'e' && !event.shiftKey ? read(rows, row, column) : event.key);
          done();
        }
    }
  };

  const copy = (event: ClipboardEvent) => {
    if (editing !== null || !event.clipboardData) return;
    const { top, bottom, left, right } = block();
    const lines: string[] = [];
    for (let r = top; r <= bottom; r++) {
      const cells: string[] = [];
      for (let c = left; c <= right; c++) cells.push(read(rows, r, c));
      lines.push(cells.join('\t'));
    }
    event.clipboardData.setData('text/plain', lines.join('\n'));
    event.preventDefault();
  };

  const paste = (event: ClipboardEvent) => {
    if (editing !== null || !event.clipboardData) return;
    event.preventDefault();
    const lines = event.clipboardData.getData('text/plain').replace(/\r/g, '').replace(/\n$/, '').split('\n');
    let list = rows;
    lines.slice(0, 500).forEach((line, i) => {
      if (row + i >= list.length) list = [...list, blank()];
      line.split('\t').forEach((text, j) => {
        const target = columns[column + j];
        if (target) list = write(list, row + i, column + j, pasted(text, target));
      });
    });
    onRows(list);
    setAnchor({
      row: row + lines.length - 1,
      column: clamp(column + (lines[0]?.split('\t').length ?? 1) - 1, columns.length - 1),
    });
  };

  // without a text selection the browser sends these to the page, not to what has the focus
  const clipboard = useRef({ copy, paste });
  clipboard.current = { copy, paste };
  useEffect(() => {
    const on = (act: 'copy' | 'paste') => (event: ClipboardEvent) => {
      if (document.activeElement === root.current) clipboard.current[act](event);
    };
    const [onCopy, onPaste] = [on('copy'), on('paste')];
    document.addEventListener('copy', onCopy);
    document.addEventListener('paste', onPaste);
    return () => {
      document.removeEventListener('copy', onCopy);
      document.removeEventListener('paste', onPaste);
    };
  }, []);

  const { top, bottom, left, right } = block();
  return (
    <table
      ref={root}
      role="grid"
      aria-label="Rows"
      tabIndex={0}
      data-test="grid"
      className="w-full table-fixed border-collapse outline-none"
      style={{ minWidth: 36 + columns.length * 112 + (margin ? 286 : 0) }}
      onKeyDown={onKeyDown}
      onFocus={() => setFocused(true)}
      onBlur={() => setFocused(false)}
    >
      <colgroup>
        <col style={{ width: 36 }} />
        {columns.map((c) => (
          <col key={c.id} />
        ))}
        {margin && <col style={{ width: 286 }} />}
      </colgroup>
      <thead>
        <tr>
          <th className="w-9 border-r border-b border-line border-b-ink" aria-label="Row" />
          {columns.map((c, i) => (
            <th
              key={c.id}
              className={`border-r border-b border-line border-b-ink px-2.5 py-1.5 text-left align-top font-normal ${i === checks ? 'border-l-[3px] border-l-ink' : ''} ${c.side === 'then' ? 'bg-plumbg/40' : ''}`}
            >
              <DropdownMenu.Root>
                <DropdownMenu.Trigger className="w-full text-left">{c.head}</DropdownMenu.Trigger>
                <DropdownMenu.Portal>
                  <DropdownMenu.Content className="menu" align="start">
                    {c.menu.map((entry) => (
                      <DropdownMenu.Item
                        key={entry.label}
                        className="menu-item"
                        disabled={entry.off ?? false}
                        onSelect={entry.act}
                      >
                        {entry.label}
                      </DropdownMenu.Item>
                    ))}
                  </DropdownMenu.Content>
                </DropdownMenu.Portal>
              </DropdownMenu.Root>
            </th>
          ))}
          {margin && (
            <th className="border-b border-b-ink border-l border-l-ink bg-paper px-3.5 py-2 text-left font-normal">
              {marginHead}
            </th>
          )}
        </tr>
      </thead>
      <tbody>
        {rows.map((_, r) => (
          <tr key={r} data-hit={hit(r)} data-test={`row-${r + 1}`}>
            <td className="border-r border-b border-line border-b-faint p-0 text-center">
              <DropdownMenu.Root>
                <DropdownMenu.Trigger
                  className={`h-[33px] w-full ${hit(r) ? 'bg-teal font-bold text-paper' : covered?.[r]?.hit === 0 ? 'hatched text-ochre' : 'text-soft'}`}
                  aria-label={`Row ${r + 1}${covered?.[r]?.hit === 0 ? ', hit by no sample' : ''}`}
                  title={
                    covered?.[r] &&
                    (covered[r]?.hit === 0
                      ? 'No sample hits this row.'
                      : `Samples hit this row ${covered[r]?.hit} ${covered[r]?.hit === 1 ? 'time' : 'times'}.`)
                  }
                >
                  <span className={covered?.[r]?.hit === 0 && !hit(r) ? 'bg-sheet px-1 font-semibold' : ''}>
                    {r + 1}
                  </span>
                </DropdownMenu.Trigger>
                <DropdownMenu.Portal>
                  <DropdownMenu.Content className="menu" align="start">
                    <DropdownMenu.Item className="menu-item" onSelect={() => insert(r)}>
                      New row above
                    </DropdownMenu.Item>
                    <DropdownMenu.Item className="menu-item" onSelect={() => insert(r + 1)}>
                      New row below
                    </DropdownMenu.Item>
                    <DropdownMenu.Item className="menu-item" onSelect={() => insert(r + 1, rows[r])}>
                      Same again below
                    </DropdownMenu.Item>
                    <DropdownMenu.Item className="menu-item" disabled={r === 0} onSelect={() => swap(r, r - 1)}>
                      Move up <span className="key">Alt ↑</span>
                    </DropdownMenu.Item>
                    <DropdownMenu.Item
                      className="menu-item"
                      disabled={r === rows.length - 1}
                      onSelect={() => swap(r, r + 1)}
                    >
                      Move down <span className="key">Alt ↓</span>
                    </DropdownMenu.Item>
                    <DropdownMenu.Item className="menu-item" onSelect={() => remove(r)}>
                      Remove row
                    </DropdownMenu.Item>
                  </DropdownMenu.Content>
                </DropdownMenu.Portal>
              </DropdownMenu.Root>
            </td>
            {columns.map((c, i) => {
              const here = r === row && i === column;
              const side = c.side === 'if' ? i : i - checks;
              const mistake = wrong(r, c.side, side);
              const seen = c.side === 'if' ? covered?.[r]?.cells?.[side] : undefined;
              const unseen =
                typeof seen === 'number' && seen !== 3
                  ? `No sample sees this ${seen === 0 ? 'hold or fail' : seen === 1 ? 'fail' : 'hold'}.`
                  : undefined;
              return (
                // biome-ignore lint/a11y/useKeyWithClickEvents: the grid itself listens to the keys
                <td
                  key={c.id}
                  role="gridcell"
                  className={`grid-cell border-r border-b border-r-line border-b-faint ${i === checks ? 'border-l-[3px] border-l-ink' : ''} ${hit(r) ? 'bg-tealbg' : c.side === 'then' ? 'bg-plumbg/25' : ''}`}
                  data-at={here && focused && editing === null}
                  data-picked={focused && anchor !== null && r >= top && r <= bottom && i >= left && i <= right}
                  data-wrong={mistake !== undefined}
                  data-test={`cell-${r + 1}-${i + 1}`}
                  title={mistake?.detail ?? unseen}
                  data-unseen={unseen !== undefined}
                  onClick={(event) => {
                    setAnchor(event.shiftKey ? { row, column } : null);
                    setAt({ row: r, column: i });
                    if (editing === null) refocus();
                  }}
                  onDoubleClick={() => {
                    setAt({ row: r, column: i });
                    setEditing(read(rows, r, i));
                  }}
                >
                  {here && editing !== null ? (
                    <CellEditor
                      start={editing}
                      suggestions={c.suggestions}
                      mistake={mistake}
                      world={world}
                      dialect={c.side === 'if' ? 'unaryTests' : 'expression'}
                      onTyping={(text) => onTyping(write(rows, r, i, text.trim() === '' ? '-' : text))}
                      onKeep={keep}
                      onLeave={leave}
                      onCompose={
                        c.composes === undefined
                          ? undefined
                          : (text) => {
                              setComposing(text);
                              setEditing(null);
                            }
                      }
                    />
                  ) : (
                    <div className="shown">
                      <Shown
                        cell={read(rows, r, i)}
                        column={c}
                        dashWords={
                          c.side === 'if' && i === 0 && checks > 0 && rows[r]?.if.every((x) => String(x) === '-')
                            ? 'anything else'
                            : '–'
                        }
                      />
                    </div>
                  )}
                  {here && composing !== null && (
                    <Popover.Root open onOpenChange={(open) => open || leave()}>
                      <Popover.Anchor className="absolute inset-x-0 bottom-0" />
                      <Popover.Portal>
                        <Popover.Content
                          className="menu w-[620px] p-0!"
                          align="end"
                          sideOffset={2}
                          onInteractOutside={(event) => event.preventDefault()}
                        >
                          <Composer
                            start={composing}
                            own={c.composes ?? ''}
                            world={world}
                            mistake={mistake}
                            onTyping={(text) => onTyping(write(rows, r, i, text))}
                            onKeep={(text) => keep(text, 0, 0)}
                            onLeave={leave}
                          />
                        </Popover.Content>
                      </Popover.Portal>
                    </Popover.Root>
                  )}
                </td>
              );
            })}
            {margin && (
              <td className="border-b border-b-line border-l border-l-ink bg-paper px-3.5 text-[13px]">{margin(r)}</td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
