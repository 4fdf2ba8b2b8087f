import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { api, type Import, Problem } from '../../api/client';
import { inUse, type TypeTree } from '../../api/trees';
import { type DeskView, moment, useDesk } from '../../app/desk';
import { ProblemNote } from '../../parts/ProblemNote';
import { readFile } from './readFile';

const STAGES: Record<Import['stage'], string> = {
  read: 'read, nothing imported yet',
  trying: 'being tried',
  tried: 'tried, nothing imported yet',
  running: 'running',
  done: 'imported',
  stopped: 'stopped',
  undoing: 'being undone',
  undone: 'undone',
};

const WORKING: Import['stage'][] = ['trying', 'running', 'undoing'];

/** Takes a file in, and says plainly what is wrong with one that cannot be read. */
function Begin({ view }: { view: DeskView }) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const [search] = useSearchParams();
  const [type, setType] = useState(search.get('type') ?? view.types.find((t) => t.kind === 'register')?.key ?? '');
  const [encoding, setEncoding] = useState('');
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const take = async (file: File | undefined) => {
    if (!file) return;
    setBusy(true);
    setProblem(null);
    try {
      const read = await readFile(file).catch(() => {
        throw new Problem(
          422,
          'The spreadsheet cannot be read.',
          'Save it as .xlsx or CSV and send it again.',
          [],
          null,
        );
      });
      const made = await api.readImport(type, read, encoding || undefined);
      await client.invalidateQueries({ queryKey: ['imports'] });
      navigate(`/imports/${made.import}`);
    } catch (error) {
      setProblem(Problem.of(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <section className="border-b border-line bg-sheet px-4 py-3">
      <div className="flex flex-wrap items-center gap-3">
        <label>
          Records of{' '}
          <select className="field" aria-label="Type of records" value={type} onChange={(e) => setType(e.target.value)}>
            {view.types.map((t) => (
              <option key={t.key} value={t.key}>
                {t.title}
              </option>
            ))}
          </select>
        </label>
        <label>
          from a file{' '}
          <input
            type="file"
            aria-label="File"
            accept=".csv,.txt,.tsv,.json,.xlsx"
            disabled={busy}
            onChange={(e) => {
              void take(e.target.files?.[0]);
              e.target.value = '';
            }}
          />
        </label>
        <label className="soft">
          written in{' '}
          <select
            className="field"
            aria-label="Encoding"
            value={encoding}
            onChange={(e) => setEncoding(e.target.value)}
          >
            <option value="">UTF-8</option>
            <option>Windows-1252</option>
            <option>ISO-8859-1</option>
            <option>ISO-8859-15</option>
          </select>
        </label>
        {busy && <span className="soft">Reading …</span>}
      </div>
      <p className="soft mt-1">
        CSV, JSON or XLSX. The first row names the columns. Reading a file imports nothing yet.
      </p>
      <ProblemNote problem={problem} />
    </section>
  );
}

function Matching({
  of,
  type,
  onTry,
}: {
  of: Import;
  type: TypeTree;
  onTry: (matching: Record<string, string>, key: string | null) => void;
}) {
  const [matching, setMatching] = useState<Record<string, string>>(of.matching);
  const values = Object.values(matching);
  const first = [
    'id',
    ...['code', 'number', type.name_field ?? 'title'].filter((k) => type.fields.some((f) => f.key === k)),
  ].find((k) => values.includes(k));
  const [key, setKey] = useState<string | null>(of.key ?? first ?? null);
  const { data } = useQuery({
    queryKey: ['import rows', of.import, 'first'],
    queryFn: () => api.importRows(of.import, null, 0),
  });
  const fields = inUse(type);
  const label = (name: string) => (name === 'id' ? 'Id' : (fields.find((f) => f.key === name)?.label ?? name));
  const missing = fields.filter((f) => f.required && !values.includes(f.key));
  const pickable = key !== null && !values.includes(key) ? null : key;
  return (
    <div className="bg-sheet px-4 py-3">
      <table className="ledger max-w-[900px]" data-test="matching">
        <thead>
          <tr>
            <th>Column</th>
            <th>The first rows</th>
            <th>Goes into</th>
          </tr>
        </thead>
        <tbody>
          {of.columns.map((column, i) => (
            <tr key={column}>
              <td className="font-semibold">{column}</td>
              <td className="soft max-w-[320px] truncate">
                {(data?.rows ?? [])
                  .slice(0, 3)
                  .map((row) => row.cells[i])
                  .filter((cell) => cell !== '' && cell !== null && cell !== undefined)
                  .map((cell) => (typeof cell === 'object' ? JSON.stringify(cell) : String(cell)))
                  .join('  ·  ')}
              </td>
              <td>
                <select
                  className="field w-[220px]"
                  aria-label={`Field for ${column}`}
                  value={matching[column] ?? ''}
                  onChange={(e) => {
                    const { [column]: _, ...rest } = matching;
                    setMatching(e.target.value ? { ...rest, [column]: e.target.value } : rest);
                  }}
                >
                  <option value="">nothing</option>
                  <option value="id">Id</option>
                  {fields.map((f) => (
                    <option key={f.key} value={f.key} disabled={values.includes(f.key) && matching[column] !== f.key}>
                      {f.label}
                    </option>
                  ))}
                </select>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-3 flex items-center gap-2">
        <label>
          A row is about{' '}
          <select
            className="field"
            aria-label="Key"
            value={pickable ?? ''}
            onChange={(e) => setKey(e.target.value || null)}
          >
            <option value="">a new record, always</option>
            {values.map((name) => (
              <option key={name} value={name}>
                the record with its {label(name)}
              </option>
            ))}
          </select>
        </label>
        {pickable && <span className="soft">Where there is none, a new one is made.</span>}
      </p>
      {missing.length > 0 && (
        <p className="mt-2 text-ochre">
          {missing.map((f) => f.label).join(', ')} {missing.length === 1 ? 'is' : 'are'} needed for a new record, and no
          column goes there.
        </p>
      )}
      <button
        type="button"
        className="btn btn-main mt-3"
        disabled={values.length === 0}
        onClick={() => onTry(matching, pickable)}
      >
        {of.stage === 'read' ? 'Show what each row comes to' : 'Show it again'}
      </button>
    </div>
  );
}

function Rows({ of, type }: { of: Import; type: TypeTree }) {
  const [search, setSearch] = useSearchParams();
  const fate = search.get('fate');
  const isDone = ['done', 'undone', 'running', 'undoing'].includes(of.stage);
  const words: Record<string, string> = isDone
    ? { create: 'made', update: 'changed', same: 'the same already', refused: 'refused', kept: 'kept' }
    : { create: 'would be made', update: 'would be changed', same: 'the same already', refused: 'would be refused' };
  const marks: Record<string, string> = { create: '◆', update: '◆', same: '◈', refused: '✕' };
  const counts: [string, number][] = [
    ['create', of.counts.create],
    ['update', of.counts.update],
    ['same', of.counts.same],
    ['refused', of.counts.refused],
    ...(of.counts.kept > 0 ? ([['kept', of.counts.kept]] as [string, number][]) : []),
  ];
  const rows = useInfiniteQuery({
    queryKey: ['import rows', of.import, fate, of.stage, of.counts.left, of.counts.done, of.counts.undone],
    queryFn: ({ pageParam }) => api.importRows(of.import, fate, pageParam),
    initialPageParam: 0,
    getNextPageParam: (page) => page.next ?? undefined,
    placeholderData: (old) => old,
  });
  const all = rows.data?.pages.flatMap((page) => page.rows) ?? [];
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 border-t border-line px-4 py-2" data-test="import-counts">
        <button
          type="button"
          className={`chip ${fate === null ? 'border-ink bg-sheet' : ''}`}
          onClick={() => setSearch({}, { replace: true })}
        >
          all <b>{of.total}</b>
        </button>
        {counts.map(([name, n]) => (
          <button
            key={name}
            type="button"
            className={`chip ${fate === name ? 'border-ink bg-sheet' : ''} ${name === 'refused' && n > 0 ? 'text-red' : ''}`}
            onClick={() => setSearch({ fate: name }, { replace: true })}
          >
            {words[name]} <b>{n}</b>
          </button>
        ))}
      </div>
      <div className="min-h-0 flex-1 overflow-auto border-t border-line bg-sheet">
        <table className="ledger" data-test="import-rows">
          <thead>
            <tr>
              <th>Row</th>
              <th>Fate</th>
              {of.columns.map((column) => (
                <th key={column}>{column}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {all.map((row) => (
              <tr key={row.number}>
                <td className="soft">{row.number}</td>
                <td className="max-w-[340px]">
                  {row.fate === null ? (
                    <span className="soft">not looked at</span>
                  ) : (
                    <span className={row.fate === 'refused' ? 'text-red' : row.fate === 'same' ? 'soft' : ''}>
                      {marks[row.fate]}{' '}
                      {row.done === 2 ? 'undone' : row.done === 3 ? 'kept when it was undone' : words[row.fate]}{' '}
                      {row.record && (
                        <Link
                          className="mono hover:underline"
                          to={
                            type.kind === 'ticket' ? `/tickets/${row.record}` : `/registers/${type.key}/${row.record}`
                          }
                        >
                          {row.record}
                        </Link>
                      )}
                    </span>
                  )}
                  {row.reasons.map((reason) => (
                    <p key={reason} className="text-[13px] text-red">
                      {reason}
                    </p>
                  ))}
                </td>
                {of.columns.map((column, i) => (
                  <td key={column} className="max-w-[220px] truncate">
                    {row.cells[i] === null || row.cells[i] === undefined
                      ? ''
                      : typeof row.cells[i] === 'object'
                        ? JSON.stringify(row.cells[i])
                        : String(row.cells[i])}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        {rows.hasNextPage && (
          <button type="button" className="btn m-3" onClick={() => void rows.fetchNextPage()}>
            Show more
          </button>
        )}
      </div>
    </>
  );
}

function One({ number, view }: { number: number; view: DeskView }) {
  const client = useQueryClient();
  const [problem, setProblem] = useState<Problem | null>(null);
  const query = useQuery({
    queryKey: ['import', number],
    queryFn: () => api.import(number),
    refetchInterval: (q) => (q.state.data && WORKING.includes(q.state.data.stage) ? 700 : false),
  });
  const of = query.data;
  const stage = of?.stage;
  useEffect(() => {
    if (stage === 'done' || stage === 'undone')
      for (const key of ['register', 'registers', 'tickets', 'imports'])
        void client.invalidateQueries({ queryKey: [key] });
  }, [stage, client]);
  if (query.isError) return <ProblemNote problem={Problem.of(query.error)} />;
  if (!of) return null;
  const type = view.types.find((t) => t.key === of.type);
  if (!type) return <p className="p-6">The type “{of.type}” is gone.</p>;
  const act = async (work: Parameters<typeof api.actOnImport>[1]) => {
    try {
      client.setQueryData(['import', number], await api.actOnImport(number, work));
      setProblem(null);
    } catch (error) {
      setProblem(Problem.of(error));
    }
    await query.refetch();
  };
  const isAtWork = WORKING.includes(of.stage);
  const progress =
    of.stage === 'trying'
      ? of.total - of.counts.left
      : of.stage === 'undoing'
        ? of.counts.undone + of.counts.kept
        : of.counts.done;
  const changes = of.counts.create + of.counts.update;
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div
        className="flex flex-wrap items-center gap-3 border-b border-line bg-sheet px-4 py-2"
        data-test="import-head"
      >
        <b>{of.name}</b> <span className="soft">into {type.title}</span>
        <span data-test="import-stage">{STAGES[of.stage]}</span>
        {isAtWork && (
          <>
            <progress value={progress} max={of.stage === 'undoing' ? of.counts.create + of.counts.update : of.total} />
            <span className="tabular-nums">{progress}</span>
            <button type="button" className="btn" onClick={() => void act({ act: 'stop' })}>
              Stop
            </button>
          </>
        )}
        <span className="flex-1" />
        {(of.stage === 'tried' || (of.stage === 'stopped' && of.counts.left === 0)) && (
          <button
            type="button"
            className="btn btn-main"
            disabled={changes === 0}
            onClick={() => void act({ act: 'run' })}
          >
            {of.stage === 'stopped' ? 'Go on importing' : `Import ${changes} ${changes === 1 ? 'row' : 'rows'}`}
          </button>
        )}
        {(of.stage === 'done' || (of.stage === 'stopped' && of.counts.done > of.counts.refused)) && (
          <button type="button" className="btn" onClick={() => void act({ act: 'undo' })}>
            Undo this import
          </button>
        )}
      </div>
      {of.problem && <p className="px-4 py-2 text-red">✕ {of.problem}</p>}
      <div className="px-4">
        <ProblemNote problem={problem} />
      </div>
      {(of.stage === 'read' || of.stage === 'tried' || (of.stage === 'stopped' && of.counts.done === 0)) && (
        <Matching
          key={of.import}
          of={of}
          type={type}
          onTry={(matching, key) => void act({ act: 'try', matching, key })}
        />
      )}
      {of.stage !== 'read' && <Rows of={of} type={type} />}
    </div>
  );
}

/** Files of records: read, matched, tried row by row, run, and undone. */
export default function Imports() {
  const view = useDesk();
  const { number } = useParams();
  const { data } = useQuery({ queryKey: ['imports'], queryFn: api.imports });
  if (!view) return <main className="soft p-10">Reading the desk …</main>;
  return (
    <main className="flex h-full flex-col">
      <div className="head">
        <h1>
          {number ? (
            <>
              <Link to="/imports" className="link text-[20px]">
                Imports
              </Link>{' '}
              / {number}
            </>
          ) : (
            'Imports'
          )}
        </h1>
        <Link to="/registers" className="link ml-auto">
          Registers
        </Link>
      </div>
      {number ? (
        <One key={number} number={Number(number)} view={view} />
      ) : (
        <>
          <Begin view={view} />
          <div className="flex-1 overflow-auto bg-sheet">
            <table className="ledger">
              <thead>
                <tr>
                  <th>File</th>
                  <th>Into</th>
                  <th>Rows</th>
                  <th>How far</th>
                  <th>By</th>
                </tr>
              </thead>
              <tbody>
                {data?.imports.map((one) => {
                  const when = moment(one.at, view.desk.timezone);
                  return (
                    <tr key={one.import}>
                      <td>
                        <Link to={`/imports/${one.import}`} className="hover:underline">
                          {one.name}
                        </Link>
                      </td>
                      <td>{view.lexicon.type(one.type)?.title ?? one.type}</td>
                      <td className="tabular-nums">{one.total}</td>
                      <td>{STAGES[one.stage]}</td>
                      <td>
                        {view.lexicon.person(one.by)}{' '}
                        <span className="soft" title={when.exact}>
                          {when.short}
                        </span>
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
            {data?.imports.length === 0 && <p className="p-6">Nothing has been imported yet.</p>}
          </div>
        </>
      )}
    </main>
  );
}
