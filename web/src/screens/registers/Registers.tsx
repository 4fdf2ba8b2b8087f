import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query';
import { DropdownMenu } from 'radix-ui';
import { useEffect, useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { api, Problem, type TicketRecord } from '../../api/client';
import { type FieldTree, inUse, isLong, type TypeTree, type Values } from '../../api/trees';
import { type DeskView, useDesk } from '../../app/desk';
import type { Lexicon } from '../../app/lexicon';
import { useMay } from '../../app/session';
import { exportSheet } from '../../parts/exportSheet';
import { ProblemNote } from '../../parts/ProblemNote';
import { sayTotal } from '../../parts/sayTotal';
import { useReferred } from '../../parts/useReferred';
import { ValueEditor } from '../../parts/ValueEditor';
import { DeleteRecord } from './DeleteRecord';
import { OutsideState } from './OutsideState';
import { Tree } from './Tree';

function RecordSheet({
  type,
  record,
  lexicon,
  onSaved,
  onDone,
}: {
  type: TypeTree;
  /** Null for a new one. */
  record: TicketRecord | null;
  lexicon: Lexicon;
  onSaved: (record: TicketRecord) => void;
  onDone: () => void;
}) {
  const may = useMay('builder');
  const records = useReferred(type.fields);
  const [edits, setEdits] = useState<Values>({});
  const [problem, setProblem] = useState<Problem | null>(null);
  const values = record?.values ?? {};
  const computed = type.fields.filter((f) => f.type === 'derived' || f.type === 'tally');
  const count = Object.keys(edits).length;
  const edit = (field: FieldTree, value: unknown) => {
    setProblem(null);
    setEdits((old) => {
      const next = { ...old, [field.key]: value };
      if (JSON.stringify(value ?? null) === JSON.stringify(values[field.key] ?? null)) delete next[field.key];
      return next;
    });
  };
  const save = async () => {
    try {
      const saved = record
        ? await api.changeRecord(type.key, record.id, edits, record.version)
        : await api.createRecord(type.key, edits);
      setEdits({});
      onSaved(saved.record);
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  const wrong = (key: string) => problem?.errors.find((e) => e.pointer === `/values/${key}`)?.detail;
  return (
    <section className="overflow-auto border-l border-ink bg-sheet px-4 py-3" data-test="record-sheet">
      <div className="flex items-center gap-3 text-[13px]">
        <span className="mono">{record?.id ?? 'new'}</span>
        <span className="soft">{type.title}</span>
        <span className="flex-1" />
        {count > 0 && may && (
          <button type="button" className="btn btn-main" onClick={() => void save()}>
            {record ? `Save ${count} ${count === 1 ? 'edit' : 'edits'}` : 'Create'}
          </button>
        )}
        {record && may && count === 0 && (
          <DeleteRecord type={type} record={record} lexicon={lexicon} onProblem={setProblem} />
        )}
        <button
          type="button"
          className="btn"
          onClick={() => {
            setEdits({});
            setProblem(null);
            if (!record) onDone();
          }}
          disabled={record !== null && count === 0}
        >
          Drop
        </button>
      </div>
      <ProblemNote problem={problem} />
      {problem?.status === 412 && (
        <p className="mt-2">
          <button type="button" className="btn" onClick={() => onSaved(problem.current as TicketRecord)}>
            Take what was saved meanwhile and keep my edits
          </button>
        </p>
      )}
      {[...inUse(type), ...computed].map((field) => {
        const value = field.key in edits ? edits[field.key] : values[field.key];
        const follows = field.type === 'derived' || field.type === 'tally';
        return (
          <div
            key={field.key}
            className="grid min-h-9 grid-cols-[120px_minmax(0,1fr)] items-center gap-2 border-b border-faint py-1.5"
            data-test={`field-${field.key}`}
          >
            <span className="soft text-[13px]">
              {field.label}
              {field.required && <b className="ml-1 text-ink">needed</b>}
            </span>
            <div>
              {follows || !may ? (
                <span>
                  {lexicon.say(value, field)}
                  {follows && <span className="soft block text-[12.5px]">Follows from other fields.</span>}
                </span>
              ) : (
                <ValueEditor
                  field={field}
                  value={value}
                  lexicon={lexicon}
                  records={field.to ? (records.get(field.to) ?? []) : []}
                  invalid={wrong(field.key) !== undefined}
                  onChange={(next) => edit(field, next)}
                />
              )}
              {wrong(field.key) && (
                <p role="alert" className="text-[13px] text-red">
                  ✕ {wrong(field.key)}
                </p>
              )}
            </div>
          </div>
        );
      })}
    </section>
  );
}

function Register({ type, view }: { type: TypeTree; view: DeskView }) {
  const { id } = useParams();
  const may = useMay('builder');
  const navigate = useNavigate();
  const client = useQueryClient();
  const [search, setSearch] = useSearchParams();
  const [adding, setAdding] = useState(false);
  const words = search.get('q') ?? '';
  const sort = search.get('sort') ?? 'name';
  const query = new URLSearchParams({ ...(words ? { q: words } : {}), sort, limit: '100' });
  const pages = useInfiniteQuery({
    queryKey: ['register', type.key, query.toString()],
    queryFn: ({ pageParam }) =>
      api.register(type.key, `${query}${pageParam ? `&cursor=${encodeURIComponent(pageParam)}` : ''}`),
    initialPageParam: '',
    getNextPageParam: (last) => last.next ?? undefined,
    placeholderData: keepPreviousData,
  });
  const isTree = search.get('as') === 'tree';
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = pages;
  const loaded = pages.data?.pages.length ?? 0;
  // an outline needs all of it; past some thousands it shows what it has
  useEffect(() => {
    if (isTree && hasNextPage && !isFetchingNextPage && loaded < 50) void fetchNextPage();
  }, [isTree, hasNextPage, isFetchingNextPage, fetchNextPage, loaded]);
  const records = pages.data?.pages.flatMap((page) => page.records) ?? [];
  const lexicon = view.lexicon.with(Object.assign({}, ...(pages.data?.pages.map((page) => page.names) ?? [])));
  const columns = type.fields.filter((f) => !isLong(f)).slice(0, 8);
  const parent = type.fields.find((f) => f.type === 'reference' && f.to === type.key) ?? null;
  const open = records.find((record) => record.id === id) ?? null;
  const set = (key: string, value: string) => {
    const next = new URLSearchParams(search);
    if (value === '') next.delete(key);
    else next.set(key, value);
    setSearch(next, { replace: true });
  };
  const saved = async (record: TicketRecord) => {
    await client.invalidateQueries({ queryKey: ['register', type.key] });
    await client.invalidateQueries({ queryKey: ['registers'] });
    setAdding(false);
    navigate({ pathname: `/registers/${type.key}/${record.id}`, search: search.toString() });
  };
  const isSplit = open !== null || adding;
  return (
    <>
      <div className="flex items-center gap-3 border-b border-line bg-sheet px-4 py-2">
        <input
          data-filter
          className="field w-[240px]"
          placeholder="Name or id  /"
          aria-label={`Filter ${type.title}`}
          value={words}
          onChange={(e) => set('q', e.target.value)}
        />
        <span className="soft" data-test="register-count">
          {records.length} of {sayTotal(pages.data?.pages[0]?.total ?? 0)}
        </span>
        {parent && (
          <span className="flex" role="radiogroup" aria-label="Shown as">
            {[
              ['', 'List'],
              ['tree', 'Tree'],
            ].map(([value, words]) => (
              <button
                key={value}
                type="button"
                role="radio"
                aria-checked={(search.get('as') ?? '') === value}
                className={`border border-line px-2.5 py-0.5 ${(search.get('as') ?? '') === value ? 'bg-ink text-paper' : 'bg-sheet'}`}
                onClick={() => set('as', value ?? '')}
              >
                {words}
              </button>
            ))}
          </span>
        )}
        <span className="flex-1" />
        {may && <OutsideState type={type} view={view} />}
        <DropdownMenu.Root>
          <DropdownMenu.Trigger className="btn">Export</DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content className="menu" align="end">
              <DropdownMenu.Item className="menu-item" asChild>
                <a href={`/api/export/${type.key}.csv?${words ? `q=${encodeURIComponent(words)}` : ''}`}>As CSV</a>
              </DropdownMenu.Item>
              <DropdownMenu.Item
                className="menu-item"
                onSelect={() =>
                  void exportSheet(type.key, words ? `q=${encodeURIComponent(words)}` : '', type.fields, lexicon)
                }
              >
                As a spreadsheet (XLSX)
              </DropdownMenu.Item>
              <DropdownMenu.Item className="menu-item" asChild>
                <a href={`/api/export/${type.key}.json?${words ? `q=${encodeURIComponent(words)}` : ''}`}>As JSON</a>
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
        {may && (
          <Link to={`/imports?type=${type.key}`} className="btn grid place-items-center">
            Import
          </Link>
        )}
        {may && (
          <button
            type="button"
            className="btn"
            onClick={() => {
              navigate(`/registers/${type.key}`);
              setAdding(true);
            }}
          >
            New {type.title.toLowerCase()}
          </button>
        )}
      </div>
      <div className={`grid min-h-0 flex-1 ${isSplit ? 'grid-cols-[minmax(0,1fr)_400px]' : ''}`}>
        <div className="overflow-auto bg-sheet">
          {parent && search.get('as') === 'tree' ? (
            <Tree
              type={type}
              parent={parent}
              records={records}
              lexicon={lexicon}
              openId={id ?? null}
              link={(to) => ({ pathname: `/registers/${type.key}/${to}`, search: search.toString() })}
            />
          ) : (
            <table className="ledger">
              <thead>
                <tr>
                  <th>Id</th>
                  {columns.map((field) => (
                    <th
                      key={field.key}
                      aria-sort={sort === field.key ? 'ascending' : sort === `-${field.key}` ? 'descending' : 'none'}
                    >
                      <button
                        type="button"
                        onClick={() => set('sort', sort === field.key ? `-${field.key}` : field.key)}
                      >
                        {field.label} {sort === field.key ? '↓' : sort === `-${field.key}` ? '↑' : ''}
                      </button>
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {records.map((record) => (
                  <tr key={record.id} className={record.id === id ? 'bg-tealbg' : ''} data-test={`record-${record.id}`}>
                    <td>
                      <Link
                        to={{ pathname: `/registers/${type.key}/${record.id}`, search: search.toString() }}
                        className="mono hover:underline"
                        onClick={() => setAdding(false)}
                      >
                        {record.id}
                      </Link>
                    </td>
                    {columns.map((field) => (
                      <td key={field.key}>
                        {record.values[field.key] === undefined || record.values[field.key] === null ? (
                          <span className="soft">–</span>
                        ) : (
                          lexicon.say(record.values[field.key], field)
                        )}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {pages.hasNextPage && (
            <button type="button" className="btn m-4" onClick={() => void pages.fetchNextPage()}>
              Show more
            </button>
          )}
          {pages.isSuccess && records.length === 0 && (
            <p className="p-6">{words ? 'Nothing in this register is called that.' : 'This register is empty.'}</p>
          )}
        </div>
        {adding ? (
          <RecordSheet type={type} record={null} lexicon={lexicon} onSaved={saved} onDone={() => setAdding(false)} />
        ) : (
          open && (
            <RecordSheet
              key={open.id}
              type={type}
              record={open}
              lexicon={lexicon}
              onSaved={saved}
              onDone={() => undefined}
            />
          )
        )}
      </div>
    </>
  );
}

/** Reference data: what tickets refer to. */
export default function Registers() {
  const view = useDesk();
  const { data } = useQuery({ queryKey: ['registers'], queryFn: api.registers });
  const { type: key = data?.registers[0]?.key } = useParams();
  if (!view || !data) return <main className="soft p-10">Reading the registers …</main>;
  const type = view.types.find((t) => t.key === key && t.kind === 'register');
  return (
    <main className="flex h-full flex-col">
      <div className="head flex-wrap">
        <h1>Registers</h1>
        <nav className="flex flex-wrap gap-1" aria-label="Registers">
          {data.registers.map((register) => (
            <Link
              key={register.key}
              to={`/registers/${register.key}`}
              aria-current={register.key === key ? 'page' : undefined}
              className={`border px-2.5 py-0.5 ${register.key === key ? 'border-ink bg-ink text-paper' : 'border-line bg-sheet hover:bg-faint'}`}
            >
              {register.title} <span className={register.key === key ? '' : 'soft'}>{register.records}</span>
            </Link>
          ))}
        </nav>
      </div>
      {type ? (
        <Register key={type.key} type={type} view={view} />
      ) : (
        <p className="p-10">{key ? `There is no register “${key}”.` : 'This desk has no registers yet.'}</p>
      )}
    </main>
  );
}
