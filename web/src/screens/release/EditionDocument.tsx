import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';
import { api, Problem } from '../../api/client';
import type { GuardTree, MirrorTree, RuleTree, SampleTree, TableTree, TypeTree } from '../../api/trees';
import { typesOf } from '../../api/trees';
import { moment } from '../../app/desk';
import { Lexicon } from '../../app/lexicon';
import { sayGuard } from '../../app/sayGuard';
import { useWorkshop } from '../../app/workshop';
import { ProblemNote } from '../../parts/ProblemNote';
import { headsOf, PlainGrid, Sentence, TablePlain } from './RuleGrid';

interface Book {
  title: string;
  types: TypeTree[];
  tables?: TableTree[];
  rules?: RuleTree[];
  guards?: GuardTree[];
  mirrors?: MirrorTree[];
}

/** An edition as a document that whoever owns the business can read, print and sign. */
export default function EditionDocument() {
  const { number } = useParams();
  const shop = useWorkshop();
  const query = useQuery({
    queryKey: ['edition rulebook', number],
    queryFn: () => api.editionRulebook(Number(number)),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (query.isError)
    return (
      <main className="p-6">
        <ProblemNote problem={Problem.of(query.error)} />
      </main>
    );
  if (!query.data) return null;
  const { edition } = query.data;
  const book = query.data.rulebook as unknown as Book;
  const samples = query.data.samples as unknown as SampleTree[];
  // as the fields were called in that edition
  const lexicon = new Lexicon(
    book.types,
    shop.lexicon.allPeople(),
    shop.lexicon.allTeams(),
    shop.lexicon.records,
    shop.draft.timezone,
  );
  const when = moment(edition.published_at, shop.draft.timezone);
  const of = (key: string) => samples.filter((sample) => (sample.rules ?? []).includes(key));
  return (
    <main className="paper h-full overflow-auto bg-sheet" tabIndex={0} aria-label={`Edition ${edition.number}`}>
      <div className="mx-auto max-w-[880px] px-8 py-6">
        <p className="no-print mb-4 flex items-center gap-4">
          <Link className="link leading-6" to={`/editions/${edition.number}`}>
            ◂ Edition {edition.number}
          </Link>
          <span className="flex-1" />
          <button type="button" className="btn" onClick={() => window.print()}>
            Print
          </button>
        </p>
        <h1 className="text-[26px] leading-8">
          {book.title}: rulebook, edition {edition.number}
        </h1>
        <p className="mt-1">
          Published by {lexicon.person(edition.published_by)} on {when.exact}. {edition.note}
        </p>
        {edition.overridden && (
          <p className="mt-2 border-l-3 border-red pl-3">
            It was published although {edition.overridden.samples.length + edition.overridden.findings.length} things
            stood in the way: {edition.overridden.reason}
          </p>
        )}
        <h2 className="mt-6 text-[19px]">Rules, in running order</h2>
        {(book.rules ?? []).map((rule, i) => (
          <section
            key={rule.key}
            className="mt-5 break-inside-avoid border-t border-ink pt-2"
            data-test={`doc-${rule.key}`}
          >
            <h3 className="text-[16px] font-bold">
              {i + 1}. {rule.title} {rule.enabled === false && <span className="text-red">(switched off)</span>}
            </h3>
            <p className="soft text-[13px]">
              {typesOf(rule)
                .map((key) => lexicon.type(key)?.title ?? key)
                .join(', ')}
              {rule.owner && `, owned by ${lexicon.person(rule.owner)}`}
            </p>
            {rule.purpose && <p className="mt-1 italic">{rule.purpose}</p>}
            <p className="mt-1">
              <Sentence rule={rule} lexicon={lexicon} />
            </p>
            {(rule.look_ups ?? []).length > 0 && (
              <p className="mt-1 text-[13px]">
                Looks up{' '}
                {(rule.look_ups ?? []).map((l, j) => (
                  <span key={l.name}>
                    {j > 0 && '; '}
                    <span className="mono">{l.name}</span>:{' '}
                    {String(
                      l.value ??
                        Object.entries(l)
                          .find(([k]) =>
                            ['first', 'all', 'count', 'sum', 'average', 'min', 'max', 'distinct'].includes(k),
                          )
                          ?.join(' ') ??
                        '',
                    )}
                    {l.where !== undefined && ` where ${String(l.where)}`}
                  </span>
                ))}
              </p>
            )}
            <div className="mt-2 overflow-x-auto">
              <PlainGrid heads={headsOf(rule, lexicon)} checks={(rule.checks ?? []).length} rows={rule.rows} />
            </div>
            {(rule.questions ?? []).length > 0 && (
              <ul className="mt-2 list-disc pl-5">
                {(rule.questions ?? []).map((q) => (
                  <li key={q.ask}>
                    {q.ask} <b>{q.answer ?? 'Not answered.'}</b>
                  </li>
                ))}
              </ul>
            )}
            <p className="soft mt-2 text-[13px]">
              {of(rule.key).length === 0
                ? 'No sample is about it.'
                : `Proved by: ${of(rule.key)
                    .map((s) => s.title)
                    .join('; ')}.`}
            </p>
          </section>
        ))}
        {(book.tables ?? []).length > 0 && <h2 className="mt-8 text-[19px]">Tables</h2>}
        {(book.tables ?? []).map((table) => (
          <section key={table.key} className="mt-4 break-inside-avoid">
            <h3 className="font-bold">
              {table.title} <span className="mono soft">{table.key}</span>
            </h3>
            <TablePlain table={table} lexicon={lexicon} />
          </section>
        ))}
        {(book.guards ?? []).length > 0 && (
          <section className="mt-8">
            <h2 className="text-[19px]">Guards</h2>
            <ul className="list-disc pl-5">
              {(book.guards ?? []).map((guard) => (
                <li key={guard.key}>{sayGuard(guard, lexicon)}</li>
              ))}
            </ul>
          </section>
        )}
        {(book.mirrors ?? []).length > 0 && (
          <section className="mt-6">
            <h2 className="text-[19px]">Mirrors</h2>
            <ul className="list-disc pl-5">
              {(book.mirrors ?? []).map((mirror) => (
                <li key={mirror.key}>
                  {lexicon.label(mirror.on, mirror.field)} follows <span className="mono">{String(mirror.from)}</span> (
                  {(mirror.mode ?? 'always').replace('_', ' ')})
                </li>
              ))}
            </ul>
          </section>
        )}
        <section className="mt-10 grid break-inside-avoid grid-cols-2 gap-10">
          {['For the business', 'For the desk'].map((who) => (
            <p key={who} className="border-t border-ink pt-1">
              {who}: name, date, signature
            </p>
          ))}
        </section>
      </div>
    </main>
  );
}
