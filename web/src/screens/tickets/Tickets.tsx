import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { Problem } from '../../api/client';
import { fieldsOf } from '../../api/trees';
import { useDesk } from '../../app/desk';
import { NewTicketMenu } from '../../parts/NewTicketMenu';
import { ProblemNote } from '../../parts/ProblemNote';
import { sayTotal } from '../../parts/sayTotal';
import { readLines, telling } from './lines';
import { NewTicket, TicketPage } from './TicketPage';
import { TicketTable } from './TicketTable';
import { useTicketPages } from './useTicketPages';

/** The working list beside the ticket. */
export default function Tickets() {
  const view = useDesk();
  const { id } = useParams();
  const [search, setSearch] = useSearchParams();
  const client = useQueryClient();
  const [words, setWords] = useState(search.get('q') ?? '');
  const shown = useTicketPages(search, 60, view, view !== undefined && (id !== undefined || search.has('new')));
  const set = (key: string, value: string | null) =>
    setSearch(
      (old) => {
        const next = new URLSearchParams(old);
        if (value === null) next.delete(key);
        else next.set(key, value);
        return next;
      },
      { replace: true },
    );
  useEffect(() => {
    const timer = setTimeout(() => words !== (search.get('q') ?? '') && set('q', words || null), 200);
    return () => clearTimeout(timer);
  }, [words]);
  if (view && !id && !search.has('new'))
    return <TicketTable view={view} search={search} onSearch={(next) => setSearch(next, { replace: true })} />;
  if (!view) return <main className="soft p-10">Reading the desk …</main>;
  const { list, tickets, total, lexicon = view.lexicon } = shown;
  const link = (to: string) => `${to}${search.size > 0 ? `?${search}` : ''}`;
  const fresh = search.get('new');
  return (
    <main className="grid h-full grid-cols-[250px_minmax(0,1fr)]">
      <section className="flex min-h-0 flex-col border-r border-line">
        <div className="flex items-center gap-2 px-3 pt-2.5 pb-2">
          <b>Tickets</b>
          <span className="soft" data-test="ticket-count">
            {total !== undefined ? sayTotal(total) : ''}
          </span>
          <NewTicketMenu view={view} onPick={(key) => set('new', key)} />
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
        <Link to={`/tickets?${search}`} className="link px-3 pb-2 text-[13px]">
          {readLines(search).length > 0 ? `${readLines(search).length} filter lines · ` : ''}The whole list
        </Link>
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
            const facts = [said('assignee'), ...telling(fieldsOf(type)).map((f) => said(f.key))]
              .filter(Boolean)
              .slice(0, 3);
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
        <section className="bg-sheet" />
      )}
    </main>
  );
}
