import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { fieldsOf, typesOf } from '../api/trees';
import { sayGuard } from '../app/sayGuard';
import { useWorkshop } from '../app/workshop';
import { FormulaText } from '../parts/FormulaText';
import { useMentions } from '../parts/useMentions';
import { KeyDialog, type Named } from './KeyDialog';

interface User {
  to: string;
  label: string;
}

const NONE: User[] = [];

function Users({ list }: { list: User[] }) {
  if (list.length === 0) return <span className="soft">–</span>;
  return (
    <>
      {list.map((user, i) => (
        <span key={user.to}>
          {i > 0 && ', '}
          <Link to={user.to} className="hover:underline" title={user.label}>
            {list.length > 1 ? user.label.replace(/^(\d+) .*$/, '$1') : user.label}
          </Link>
        </span>
      ))}
    </>
  );
}

/** Every field: what it is called, what it holds, who reads and who writes it. */
export default function Fields() {
  const { types, rules, tables, guards, mirrors, traced, lexicon } = useWorkshop();
  const [search, setSearch] = useSearchParams();
  const [sort, setSort] = useState<'type' | 'label' | 'kind'>('type');
  const [renaming, setRenaming] = useState<Named | null>(null);
  const words = (search.get('q') ?? '').toLowerCase();
  const event = traced?.trace?.event;
  const changed = new Map((traced?.trace?.changes ?? []).map((change) => [change.field, change]));
  const mentions = useMentions();
  const order = new Map<string, User & { place: number }>([
    ...rules.map(({ tree }, i) => {
      const user = { to: `/rulebook/${tree.key}`, label: `${i + 1} ${tree.title}`, place: i };
      return [`rules ${tree.key}`, user] as const;
    }),
    ...tables.map(({ tree }, i) => {
      const user = { to: `/tables/${tree.key}`, label: tree.title, place: rules.length + i };
      return [`tables ${tree.key}`, user] as const;
    }),
    ...guards.map(({ tree }, i) => {
      const user = { to: `/guards/${tree.key}`, label: `guard: ${sayGuard(tree, lexicon)}`, place: 1000 + i };
      return [`guards ${tree.key}`, user] as const;
    }),
    ...mirrors.map(({ tree }, i) => {
      const label = `mirror of ${lexicon.label(typesOf(tree), tree.field).toLowerCase()}`;
      return [`mirrors ${tree.key}`, { to: `/mirrors/${tree.key}`, label, place: 2000 + i }] as const;
    }),
    ...types.map((type, i) => {
      const label = `derived fields of ${type.title.toLowerCase()}`;
      return [`types ${type.key}`, { to: '/fields?q=derived', label, place: 3000 + i }] as const;
    }),
  ]);
  const users = (type: string, field: string, writes: boolean): User[] => {
    const found = mentions
      .filter((m) => m.type === type && m.field === field && m.option === null && m.writes === writes)
      .flatMap((m) => order.get(`${m.kind} ${m.key}`) ?? []);
    return [...new Set(found)].sort((one, other) => one.place - other.place);
  };
  const rows = types.flatMap((type) =>
    fieldsOf(type).map((field) => ({
      type,
      field,
      readers: users(type.key, field.key, false),
      writers: users(type.key, field.key, true),
      text: `${field.key} ${field.label} ${field.question ?? ''} ${field.type} ${type.title} ${(field.options ?? []).map((o) => `${o.key} ${o.label}`).join(' ')}`.toLowerCase(),
    })),
  );
  const shown = rows.filter((row) => words === '' || row.text.includes(words));
  if (sort === 'label') shown.sort((a, b) => a.field.label.localeCompare(b.field.label));
  if (sort === 'kind')
    shown.sort((a, b) => a.field.type.localeCompare(b.field.type) || a.field.label.localeCompare(b.field.label));
  const head = (key: typeof sort, label: string) => (
    <th aria-sort={sort === key ? 'ascending' : 'none'}>
      <button type="button" onClick={() => setSort(key)}>
        {label} {sort === key && '↓'}
      </button>
    </th>
  );
  return (
    <main className="flex h-full flex-col">
      <div className="head">
        <h1>Fields</h1>
        <input
          data-filter
          className="field w-[280px]"
          placeholder="Key, label, question, option …  /"
          aria-label="Filter fields"
          value={search.get('q') ?? ''}
          onChange={(e) => setSearch(e.target.value === '' ? {} : { q: e.target.value }, { replace: true })}
        />
        <span className="soft">
          {shown.length} of {rows.length}
        </span>
        <span className="soft ml-auto">
          Keys are changed here; everything else about a field is part of the rulebook file for now.
        </span>
      </div>
      <div className="flex-1 overflow-auto bg-sheet">
        <table className="ledger">
          <thead>
            <tr>
              {head('type', 'On')}
              {head('label', 'Label')}
              <th>Key</th>
              {head('kind', 'Type')}
              <th>Question or options</th>
              <th>Read by</th>
              <th>Written by</th>
              <th className="w-[150px]">Sample in hand</th>
            </tr>
          </thead>
          <tbody>
            {shown.map(({ type, field, readers, writers }, i) => {
              const value = event?.type === type.key ? changed.get(field.key) : undefined;
              return (
                <tr key={`${type.key} ${field.key}`}>
                  <td className="soft">{sort !== 'type' || shown[i - 1]?.type !== type ? type.title : ''}</td>
                  <td className="font-semibold">
                    {field.label}
                    {field.required && <span className="soft font-normal"> required</span>}
                  </td>
                  <td className="mono">
                    {field.builtIn ? (
                      field.key
                    ) : (
                      <button
                        type="button"
                        className="mono hover:underline"
                        title="Another key …"
                        onClick={() =>
                          setRenaming({ type: type.key, field: field.key, option: null, label: field.label })
                        }
                      >
                        {field.key}
                      </button>
                    )}
                  </td>
                  <td>
                    {field.type.replace('_', ' ')}
                    {field.to && <span className="soft"> to {lexicon.type(field.to)?.title.toLowerCase()}</span>}
                    {field.builtIn && <span className="soft"> built in</span>}
                  </td>
                  <td className="max-w-[260px]">
                    {field.question && <p>“{field.question}”</p>}
                    {field.options && (
                      <p className="soft">
                        {field.options.map((option, j) => (
                          <span key={option.key}>
                            {j > 0 && ' · '}
                            <button
                              type="button"
                              className="min-h-0 min-w-0 hover:underline"
                              title={`${option.key}: another key …`}
                              onClick={() =>
                                setRenaming({
                                  type: type.key,
                                  field: field.key,
                                  option: option.key,
                                  label: `${field.label}: ${option.label}`,
                                })
                              }
                            >
                              {option.label}
                            </button>
                          </span>
                        ))}
                      </p>
                    )}
                    {field.type === 'tally' && (
                      <p className="soft">
                        {field.measure} of{' '}
                        {field.field ? `${lexicon.label(field.of ?? '', field.field).toLowerCase()} of ` : ''}
                        {lexicon.type(field.of ?? '')?.title.toLowerCase()}
                        {field.where !== undefined && (
                          <>
                            {' '}
                            where <FormulaText text={String(field.where)} />
                          </>
                        )}
                      </p>
                    )}
                    {field.formula !== undefined && (
                      <p className="soft">
                        always <FormulaText text={String(field.formula)} />
                      </p>
                    )}
                    {field.default !== undefined && (
                      <p className="soft">
                        starts as <span className="mono">{String(field.default)}</span>
                      </p>
                    )}
                  </td>
                  <td className="max-w-[200px] text-[13px]">
                    <Users list={readers.length ? readers : NONE} />
                  </td>
                  <td className="max-w-[200px] text-[13px] text-plum">
                    <Users list={writers.length ? writers : NONE} />
                  </td>
                  <td className="text-[13px]">
                    {value && (
                      <>
                        <span className="was">{lexicon.say(value.before, field)}</span> →{' '}
                        <span className="now">{lexicon.say(value.after, field)}</span>
                      </>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        {shown.length === 0 && (
          <p className="p-6">No field is called that. Fields are found by key, label, question and option.</p>
        )}
      </div>
      {renaming && <KeyDialog of={renaming} mentions={mentions} onClose={() => setRenaming(null)} />}
    </main>
  );
}
