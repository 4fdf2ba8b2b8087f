import { useQueryClient } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { DropdownMenu, Popover } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api, Problem, type TicketRecord } from '../../api/client';
import { type FieldTree, isLong } from '../../api/trees';
import { type DeskView, moment } from '../../app/desk';
import { exportSheet } from '../../parts/exportSheet';
import { NewTicketMenu } from '../../parts/NewTicketMenu';
import { ProblemNote } from '../../parts/ProblemNote';
import { Several } from '../../parts/Several';
import { sayTotal } from '../../parts/sayTotal';
import { PercentBar } from '../../parts/ValueEditor';
import { BulkEdit } from './BulkEdit';
import { ByHand } from './ByHand';
import { CellEdit } from './CellEdit';
import { FilterLines } from './FilterLines';
import { asked, filterable, readLines, telling, writeLines } from './lines';
import { useTicketPages } from './useTicketPages';
import { Views } from './Views';

const ROW = 33;

const WIDTHS: Record<string, number> = {
  state: 130,
  person: 120,
  choice: 120,
  reference: 124,
  date_time: 96,
  title: 236,
  percent: 172,
  tags: 170,
  yes_no: 90,
  number: 100,
  tally: 100,
  date: 110,
  long_text: 260,
};

const widthOf = (field: FieldTree): number => WIDTHS[field.key] ?? WIDTHS[field.type] ?? 140;

/** The columns of a list: those asked for, or what matters of its type. */
function columnsOf(search: URLSearchParams, fields: FieldTree[], type: string): FieldTree[] {
  const wanted = search.get('columns');
  const keys = wanted
    ? wanted.split(',')
    : ['title', 'state', ...(type ? [] : ['team']), 'assignee', ...telling(fields).map((f) => f.key), 'changed_at'];
  return keys.flatMap((key) => fields.filter((f) => f.key === key));
}

interface At {
  row: number;
  column: number;
}

/** The working list, as wide as the page: filtered by lines, sorted, edited in place, changed in bulk. */
export function TicketTable({
  view,
  search,
  onSearch,
}: {
  view: DeskView;
  search: URLSearchParams;
  onSearch: (next: URLSearchParams) => void;
}) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const type = search.get('type') ?? '';
  const lines = readLines(search);
  const fields = filterable(view.types, type);
  const columns = columnsOf(search, fields, type);
  const { list, names, tickets, total = 0, lexicon = view.lexicon } = useTicketPages(search, 100, view);
  const [words, setWords] = useState(search.get('q') ?? '');
  const [picked, setPicked] = useState<Map<string, TicketRecord>>(new Map());
  const [at, setAt] = useState<At>({ row: 0, column: 0 });
  const [editing, setEditing] = useState(false);
  const [bulk, setBulk] = useState(false);
  const [undo, setUndo] = useState<{
    id: string;
    field: FieldTree;
    before: unknown;
    version: number;
    words: string;
  } | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: tickets.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const shown = rows.getVirtualItems();
  const last = shown.at(-1)?.index ?? 0;
  const { fetchNextPage, hasNextPage, isFetchingNextPage } = list;
  useEffect(() => {
    if (last >= tickets.length - 30 && hasNextPage && !isFetchingNextPage) void fetchNextPage();
  }, [last, tickets.length, hasNextPage, isFetchingNextPage, fetchNextPage]);
  const set = (key: string, value: string | null) => {
    const next = new URLSearchParams(search);
    if (value === null || value === '') next.delete(key);
    else next.set(key, value);
    onSearch(next);
  };
  useEffect(() => {
    const timer = setTimeout(() => words !== (search.get('q') ?? '') && set('q', words || null), 200);
    return () => clearTimeout(timer);
  }, [words]);
  const sort = search.get('sort') ?? '-changed_at';
  const again = () => client.invalidateQueries({ queryKey: ['tickets'] });
  const pick = (ticket: TicketRecord) => {
    const next = new Map(picked);
    if (!next.delete(ticket.id)) next.set(ticket.id, ticket);
    setPicked(next);
  };
  const move = (row: number, column: number) => {
    const to = {
      row: Math.max(0, Math.min(tickets.length - 1, row)),
      column: Math.max(0, Math.min(columns.length - 1, column)),
    };
    setAt(to);
    rows.scrollToIndex(to.row);
  };
  const keys = (event: React.KeyboardEvent) => {
    if (editing || event.target instanceof HTMLInputElement) return;
    const steps: Record<string, () => void> = {
      ArrowDown: () => move(at.row + 1, at.column),
      ArrowUp: () => move(at.row - 1, at.column),
      ArrowRight: () => move(at.row, at.column + 1),
      ArrowLeft: () => move(at.row, at.column - 1),
      PageDown: () => move(at.row + 20, at.column),
      PageUp: () => move(at.row - 20, at.column),
      Home: () => move(0, at.column),
      End: () => move(tickets.length - 1, at.column),
      Enter: () => setEditing(true),
      e: () => setEditing(true),
      ' ': () => tickets[at.row] && pick(tickets[at.row] as TicketRecord),
      o: () => tickets[at.row] && navigate(`/tickets/${tickets[at.row]?.id}?${search}`),
    };
    const step = event.ctrlKey || event.metaKey || event.altKey ? undefined : steps[event.key];
    if (step) {
      event.preventDefault();
      event.stopPropagation();
      step();
    }
  };
  const takeBack = async () => {
    if (!undo) return;
    try {
      await api.changeTicket(undo.id, { [undo.field.key]: undo.before }, undo.version);
      setUndo(null);
      await again();
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  const cell = (ticket: TicketRecord, field: FieldTree) => {
    const value = ticket.values[field.key];
    const own = lexicon.field(ticket.type, field.key);
    if (field.key === 'title')
      return (
        <Link to={`/tickets/${ticket.id}?${search}`} className="hover:underline" data-test={`open-${ticket.id}`}>
          {String(value ?? '')}
        </Link>
      );
    if (value === undefined || value === null) return <span className="soft">{own ? '–' : ''}</span>;
    if (field.type === 'percent' && typeof value === 'number')
      return <PercentBar value={value} {...(own?.bands ? { bands: own.bands } : {})} />;
    const words = lexicon.say(value, own ?? field);
    if (field.type === 'date_time' && typeof value === 'string') {
      const when = moment(value, view.desk.timezone);
      return <span title={when.exact}>{when.short}</span>;
    }
    return <span title={words}>{words}</span>;
  };
  const file = (format: 'csv' | 'json' | 'xlsx') => {
    const of = asked(search);
    of.set('columns', columns.map((f) => f.key).join(','));
    if (format === 'xlsx') {
      exportSheet(type || 'tickets', of.toString(), columns, lexicon).catch((error: unknown) =>
        setProblem(Problem.of(error)),
      );
      return;
    }
    window.location.assign(`/api/export/${type || 'tickets'}.${format}?${of}`);
  };
  const width = columns.reduce((sum, f) => sum + widthOf(f), 96);
  return (
    <main className="flex h-full flex-col" data-test="ticket-table">
      <div className="head">
        <h1>Tickets</h1>
        <Views
          search={search}
          onOpen={(saved, number) => {
            const next = new URLSearchParams(saved);
            if (number) next.set('view', String(number));
            setWords(next.get('q') ?? '');
            onSearch(next);
          }}
        />
        <select
          className="field"
          aria-label="Type of ticket"
          value={type}
          onChange={(e) => set('type', e.target.value)}
        >
          <option value="">All types</option>
          {view.types
            .filter((t) => t.kind === 'ticket')
            .map((t) => (
              <option key={t.key} value={t.key}>
                {t.title}
              </option>
            ))}
        </select>
        <input
          data-filter
          className="field w-[200px]"
          placeholder="Title or number  /"
          aria-label="Find tickets"
          value={words}
          onChange={(e) => setWords(e.target.value)}
        />
        <span className="soft whitespace-nowrap" data-test="ticket-count">
          {list.data ? sayTotal(total) : ''}
        </span>
        <span className="flex-1" />
        {picked.size > 0 && (
          <>
            <ByHand
              tickets={[...picked.keys()]}
              types={[...new Set([...picked.values()].map((t) => t.type))]}
              view={view}
              lexicon={lexicon}
              onDone={() => {
                setPicked(new Map());
                void again();
              }}
            />
            <button type="button" className="btn btn-main" onClick={() => setBulk(true)}>
              Change {picked.size} …
            </button>
            <button type="button" className="link" onClick={() => setPicked(new Map())}>
              Pick none
            </button>
          </>
        )}
        <Popover.Root>
          <Popover.Trigger className="btn">Columns</Popover.Trigger>
          <Popover.Portal>
            <Popover.Content className="z-50 w-[260px] border border-ink bg-sheet p-1" align="end" sideOffset={2}>
              <Several
                options={fields.filter((f) => !isLong(f)).map((f) => ({ key: f.key, label: f.label }))}
                chosen={columns.map((f) => f.key)}
                label="Columns"
                onChosen={(chosen) => set('columns', chosen.join(','))}
              />
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
        <DropdownMenu.Root>
          <DropdownMenu.Trigger className="btn">Export</DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content className="menu" align="end">
              <DropdownMenu.Item className="menu-item" onSelect={() => file('csv')}>
                As CSV
              </DropdownMenu.Item>
              <DropdownMenu.Item className="menu-item" onSelect={() => file('xlsx')}>
                As a spreadsheet (XLSX)
              </DropdownMenu.Item>
              <DropdownMenu.Item className="menu-item" onSelect={() => file('json')}>
                As JSON
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
        <NewTicketMenu view={view} onPick={(key) => set('new', key)} />
      </div>
      <div className="border-b border-line px-4 py-2">
        <FilterLines
          lines={lines}
          fields={fields}
          view={view}
          names={names}
          onLines={(next) => onSearch(writeLines(search, next))}
        />
      </div>
      {list.isError && (
        <div className="px-4">
          <ProblemNote problem={Problem.of(list.error)} />
        </div>
      )}
      <section
        ref={scroller}
        className="min-h-0 flex-1 overflow-auto bg-sheet"
        onKeyDown={keys}
        tabIndex={0}
        aria-label="Tickets"
        data-test="ticket-grid"
      >
        <table className="ledger table-fixed" style={{ width }}>
          <thead>
            <tr>
              <th className="w-[96px]">
                <input
                  type="checkbox"
                  aria-label="Pick all that are shown"
                  checked={tickets.length > 0 && tickets.every((t) => picked.has(t.id))}
                  onChange={(e) => setPicked(e.target.checked ? new Map(tickets.map((t) => [t.id, t])) : new Map())}
                />{' '}
                Number
              </th>
              {columns.map((field) => (
                <th
                  key={field.key}
                  style={{ width: widthOf(field) }}
                  aria-sort={sort === field.key ? 'ascending' : sort === `-${field.key}` ? 'descending' : 'none'}
                >
                  <button
                    type="button"
                    onClick={() => set('sort', sort === `-${field.key}` ? field.key : `-${field.key}`)}
                    title={`Sort by ${field.label.toLowerCase()}`}
                  >
                    {field.label} {sort === field.key ? '↑' : sort === `-${field.key}` ? '↓' : ''}
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {(shown[0]?.start ?? 0) > 0 && (
              <tr aria-hidden>
                <td colSpan={columns.length + 1} style={{ height: shown[0]?.start, padding: 0 }} />
              </tr>
            )}
            {shown.map((item) => {
              const ticket = tickets[item.index];
              if (!ticket) return null;
              return (
                <tr
                  key={ticket.id}
                  className={picked.has(ticket.id) ? 'bg-tealbg' : ''}
                  style={{ height: ROW }}
                  data-test={`ticket-${ticket.id}`}
                >
                  <td className="py-1! whitespace-nowrap">
                    <input
                      type="checkbox"
                      tabIndex={-1}
                      aria-label={`Pick ${ticket.id}`}
                      checked={picked.has(ticket.id)}
                      onChange={() => pick(ticket)}
                    />{' '}
                    <Link to={`/tickets/${ticket.id}?${search}`} className="mono hover:underline" tabIndex={-1}>
                      {ticket.id}
                    </Link>
                  </td>
                  {columns.map((field, column) => {
                    const isAt = at.row === item.index && at.column === column;
                    const own = lexicon.field(ticket.type, field.key);
                    return (
                      // biome-ignore lint/a11y/useKeyWithClickEvents: the arrow keys move to a cell as well
                      <td
                        key={field.key}
                        className={`truncate py-1! ${isAt ? 'shadow-[inset_0_0_0_2px_var(--teal)]' : ''}`}
                        data-cell={`${ticket.id} ${field.key}`}
                        onClick={() => setAt({ row: item.index, column })}
                        onDoubleClick={() => {
                          setAt({ row: item.index, column });
                          setEditing(true);
                        }}
                      >
                        {isAt && editing && own ? (
                          <Popover.Root open onOpenChange={(open) => !open && setEditing(false)}>
                            <Popover.Anchor asChild>
                              <span>{cell(ticket, field)}</span>
                            </Popover.Anchor>
                            <Popover.Portal>
                              <Popover.Content
                                className="z-50 border border-ink bg-sheet"
                                align="start"
                                sideOffset={2}
                                onCloseAutoFocus={(e) => {
                                  e.preventDefault();
                                  scroller.current?.focus();
                                }}
                              >
                                <CellEdit
                                  ticket={ticket}
                                  field={own}
                                  lexicon={lexicon}
                                  onClose={() => setEditing(false)}
                                  onSaved={(saved, before) => {
                                    setEditing(false);
                                    setUndo({
                                      id: saved.id,
                                      field: own,
                                      before,
                                      version: saved.version,
                                      words: `${saved.id}: ${own.label.toLowerCase()} ${lexicon.sayChange(before, saved.values[own.key] ?? null, own)}`,
                                    });
                                    void again();
                                  }}
                                />
                              </Popover.Content>
                            </Popover.Portal>
                          </Popover.Root>
                        ) : (
                          cell(ticket, field)
                        )}
                      </td>
                    );
                  })}
                </tr>
              );
            })}
            <tr aria-hidden>
              <td
                colSpan={columns.length + 1}
                style={{ height: Math.max(0, rows.getTotalSize() - (shown.at(-1)?.end ?? 0)), padding: 0, border: 0 }}
              />
            </tr>
          </tbody>
        </table>
        {list.isSuccess && tickets.length === 0 && (
          <p className="p-6">
            No ticket is like that.{' '}
            <button
              type="button"
              className="link"
              onClick={() => {
                setWords('');
                onSearch(new URLSearchParams());
              }}
            >
              Show all
            </button>
          </p>
        )}
      </section>
      {(undo || problem) && (
        <p
          className="flex items-center gap-3 border-t border-line bg-sheet px-4 py-1.5"
          role="status"
          data-test="list-note"
        >
          {undo && (
            <>
              ◆ {undo.words}, saved.{' '}
              <button type="button" className="link" onClick={() => void takeBack()}>
                Undo
              </button>
            </>
          )}
          {problem && (
            <span className="text-red">
              ✕ {problem.message} {problem.errors.map((e) => e.detail).join(' ')}
            </span>
          )}
          <button
            type="button"
            className="ml-auto px-1 text-soft"
            aria-label="Close"
            onClick={() => {
              setUndo(null);
              setProblem(null);
            }}
          >
            ×
          </button>
        </p>
      )}
      {bulk && (
        <BulkEdit
          tickets={[...picked.values()]}
          view={view}
          lexicon={lexicon}
          onDone={(saved) => {
            setBulk(false);
            if (saved) {
              setPicked(new Map());
              void again();
            }
          }}
        />
      )}
    </main>
  );
}
