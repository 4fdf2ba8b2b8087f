import { useInfiniteQuery, useQueryClient } from '@tanstack/react-query';
import { DropdownMenu } from 'radix-ui';
import { useEffect, useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { api, Problem } from '../api/client';
import { type FieldTree, fieldsOf, settable } from '../api/trees';
import { type DeskView, useDesk } from '../app/desk';
import { ProblemNote } from '../parts/ProblemNote';
import { NewTicket, TicketPage } from './TicketPage';

const FILTERABLE = [
  'choice',
  'choices',
  'two_step_choice',
  'people',
  'references',
  'state',
  'person',
  'team',
  'yes_no',
  'reference',
  'tags',
];

function optionsOf(field: FieldTree, view: DeskView): { key: string; label: string }[] {
  switch (field.type) {
    case 'choice':
    case 'state':
      return field.options ?? [];
    case 'person':
      return view.lexicon.allPeople().map((p) => ({ key: p.key, label: p.name }));
    case 'team':
      return view.lexicon.allTeams().map((t) => ({ key: t.key, label: t.name }));
    case 'yes_no':
      return [
        { key: 'true', label: 'Yes' },
        { key: 'false', label: 'No' },
      ];
    default:
      return [];
  }
}

function Filters({
  view,
  search,
  set,
}: {
  view: DeskView;
  search: URLSearchParams;
  set: (key: string, value: string | null) => void;
}) {
  const type = search.get('type') ?? '';
  const tickets = view.types.filter((t) => t.kind === 'ticket');
  const fields = type
    ? settable(view.lexicon.type(type))
    : settable({ key: '', title: '', kind: 'ticket', fields: [] }).filter((f) => f.key !== 'state');
  const active = [...search.entries()].filter(([key]) => key.startsWith('filter['));
  const sortable: { key: string; label: string }[] = [
    { key: '-changed_at', label: 'last changed' },
    { key: '-created_at', label: 'newest' },
    { key: 'number', label: 'number' },
    { key: 'assignee', label: 'assignee' },
    ...fields
      .filter((f) => ['choice', 'number', 'percent', 'date', 'date_time'].includes(f.type))
      .map((f) => ({ key: `-${f.key}`, label: `highest ${f.label.toLowerCase()}` })),
  ];
  return (
    <div className="flex flex-wrap items-center gap-1.5 px-3 pb-2">
      <select
        className="field"
        aria-label="Type of ticket"
        value={type}
        onChange={(e) => set('type', e.target.value || null)}
      >
        <option value="">All types</option>
        {tickets.map((t) => (
          <option key={t.key} value={t.key}>
            {t.title}
          </option>
        ))}
      </select>
      <select
        className="field"
        aria-label="Order"
        value={search.get('sort') ?? '-changed_at'}
        onChange={(e) => set('sort', e.target.value)}
      >
        {sortable.map((s) => (
          <option key={s.key} value={s.key}>
            {s.label}
          </option>
        ))}
      </select>
      {active.map(([key, value]) => {
        const name = key.slice(7, -1);
        const field =
          fields.find((f) => f.key === name) ??
          fieldsOf({ key: '', title: '', kind: 'ticket', fields: [] }).find((f) => f.key === name);
        const words =
          name === 'state' && (value === 'open' || value === 'closed')
            ? value
            : value === ''
              ? 'empty'
              : view.lexicon.say(value, field);
        return (
          <span key={key} className="chip bg-sheet">
            {(field?.label ?? name).toLowerCase()} is {words}
            <button
              type="button"
              aria-label={`Drop the filter on ${field?.label ?? name}`}
              onClick={() => set(key, null)}
            >
              ×
            </button>
          </span>
        );
      })}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="link px-1">+ filter</DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content className="menu" align="start">
            <DropdownMenu.Item className="menu-item" onSelect={() => set('filter[state]', 'open')}>
              state is open
            </DropdownMenu.Item>
            <DropdownMenu.Item className="menu-item" onSelect={() => set('filter[state]', 'closed')}>
              state is closed
            </DropdownMenu.Item>
            {fields
              .filter((f) => FILTERABLE.includes(f.type))
              .map((field) => (
                <DropdownMenu.Sub key={field.key}>
                  <DropdownMenu.SubTrigger className="menu-item">
                    {field.label} <span className="soft">▸</span>
                  </DropdownMenu.SubTrigger>
                  <DropdownMenu.Portal>
                    <DropdownMenu.SubContent className="menu">
                      {optionsOf(field, view).map((option) => (
                        <DropdownMenu.Item
                          key={option.key}
                          className="menu-item"
                          onSelect={() => set(`filter[${field.key}]`, option.key)}
                        >
                          {option.label}
                        </DropdownMenu.Item>
                      ))}
                      {field.type !== 'state' && (
                        <DropdownMenu.Item className="menu-item" onSelect={() => set(`filter[${field.key}]`, '')}>
                          empty
                        </DropdownMenu.Item>
                      )}
                    </DropdownMenu.SubContent>
                  </DropdownMenu.Portal>
                </DropdownMenu.Sub>
              ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </div>
  );
}

/** The working list beside the ticket. */
export default function Tickets() {
  const view = useDesk();
  const { id } = useParams();
  const [search, setSearch] = useSearchParams();
  const client = useQueryClient();
  const [words, setWords] = useState(search.get('q') ?? '');
  const query = new URLSearchParams(search);
  query.delete('new');
  query.set('limit', '60');
  const list = useInfiniteQuery({
    queryKey: ['tickets', query.toString()],
    queryFn: ({ pageParam }) => {
      const page = new URLSearchParams(query);
      if (pageParam) page.set('cursor', pageParam);
      return api.tickets(page.toString());
    },
    initialPageParam: '',
    getNextPageParam: (page) => page.next ?? undefined,
    enabled: view !== undefined,
  });
  const set = (key: string, value: string | null) =>
    setSearch(
      (old) => {
        const next = new URLSearchParams(old);
        if (value === null) next.delete(key);
        else next.set(key, value);
        if (key === 'type')
          for (const name of [...next.keys()])
            if (name.startsWith('filter[') && name !== 'filter[state]') next.delete(name);
        if (key === 'type' && !value) next.delete('sort');
        return next;
      },
      { replace: true },
    );
  useEffect(() => {
    const timer = setTimeout(() => words !== (search.get('q') ?? '') && set('q', words || null), 200);
    return () => clearTimeout(timer);
  }, [words]);
  if (!view) return <main className="soft p-10">Reading the desk …</main>;
  const pages = list.data?.pages ?? [];
  const names = Object.assign({}, ...pages.map((page) => page.names)) as Record<string, string>;
  const lexicon = view.lexicon.with(names);
  const tickets = pages.flatMap((page) => page.tickets);
  const link = (to: string) => `${to}${search.size > 0 ? `?${search}` : ''}`;
  const fresh = search.get('new');
  return (
    <main className="grid h-full grid-cols-[250px_minmax(0,1fr)]">
      <section className="flex min-h-0 flex-col border-r border-line">
        <div className="flex items-center gap-2 px-3 pt-2.5 pb-2">
          <b>Tickets</b>
          <span className="soft" data-test="ticket-count">
            {pages[0]?.total ?? ''}
          </span>
          <DropdownMenu.Root>
            <DropdownMenu.Trigger className="btn ml-auto">New</DropdownMenu.Trigger>
            <DropdownMenu.Portal>
              <DropdownMenu.Content className="menu" align="end">
                {view.types
                  .filter((t) => t.kind === 'ticket')
                  .map((t) => (
                    <DropdownMenu.Item key={t.key} className="menu-item" onSelect={() => set('new', t.key)}>
                      {t.title}
                    </DropdownMenu.Item>
                  ))}
              </DropdownMenu.Content>
            </DropdownMenu.Portal>
          </DropdownMenu.Root>
        </div>
        <div className="px-3 pb-2">
          <input
            data-filter
            className="field w-full"
            placeholder="Title or number  /"
            aria-label="Find tickets"
            value={words}
            onChange={(e) => setWords(e.target.value)}
          />
        </div>
        <Filters view={view} search={search} set={set} />
        <div
          className="flex-1 overflow-auto border-t border-line"
          onScroll={(event) => {
            const box = event.currentTarget;
            if (
              box.scrollHeight - box.scrollTop - box.clientHeight < 400 &&
              list.hasNextPage &&
              !list.isFetchingNextPage
            )
              void list.fetchNextPage();
          }}
        >
          {list.isError && (
            <div className="px-3">
              <ProblemNote problem={Problem.of(list.error)} />
              <button type="button" className="link mt-2" onClick={() => setSearch({}, { replace: true })}>
                Show all tickets
              </button>
            </div>
          )}
          {tickets.map((ticket) => {
            const v = ticket.values;
            const type = lexicon.type(ticket.type);
            const said = (key: string) =>
              v[key] === undefined ? null : lexicon.say(v[key], lexicon.field(ticket.type, key));
            const facts = [
              said('priority') ?? said('advice') ?? (v.progress === undefined ? null : `${v.progress} %`),
              said('assignee'),
              said('vessel') ?? said('quay'),
            ];
            return (
              <Link
                key={ticket.id}
                to={link(`/tickets/${ticket.id}`)}
                aria-current={ticket.id === id}
                className={`block border-b border-faint border-l-3 px-2.5 py-2 ${ticket.id === id ? 'border-l-teal bg-sheet' : 'border-l-transparent'}`}
                data-test={`ticket-${ticket.id}`}
              >
                <span className="mono soft">{ticket.id}</span> {String(v.title ?? '')}
                <span className="soft block truncate text-[12.5px]">
                  {[
                    lexicon.say(
                      v.state,
                      fieldsOf(type).find((f) => f.key === 'state'),
                    ),
                    ...facts,
                  ]
                    .filter(Boolean)
                    .join('  ·  ')}
                </span>
              </Link>
            );
          })}
          {list.isSuccess && tickets.length === 0 && (
            <p className="p-3">
              No ticket is like that.{' '}
              <button
                type="button"
                className="link"
                onClick={() => {
                  setWords('');
                  setSearch({}, { replace: true });
                }}
              >
                Show all
              </button>
            </p>
          )}
        </div>
      </section>
      {fresh && view.lexicon.type(fresh) ? (
        <NewTicket
          key={fresh}
          type={fresh}
          view={view}
          onDone={() => {
            set('new', null);
            void client.invalidateQueries({ queryKey: ['tickets'] });
            void client.invalidateQueries({ queryKey: ['desk'] });
          }}
        />
      ) : id ? (
        <TicketPage key={id} id={id} view={view} />
      ) : (
        <section className="grid place-items-center bg-sheet">
          <p className="soft">Pick a ticket on the left, or make a new one.</p>
        </section>
      )}
    </main>
  );
}
