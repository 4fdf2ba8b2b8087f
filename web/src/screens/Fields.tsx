import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { fieldsOf, fieldsRead, fieldsWritten, typesOf } from '../api/trees';
import { useWorkshop } from '../app/workshop';

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
  const { types, rules, tables, traced, lexicon } = useWorkshop();
  const [search, setSearch] = useSearchParams();
  const [sort, setSort] = useState<'type' | 'label' | 'kind'>('type');
  const words = (search.get('q') ?? '').toLowerCase();
  const event = traced?.trace?.event;
  const changed = new Map((traced?.trace?.changes ?? []).map((change) => [change.field, change]));
  const rows = types.flatMap((type) =>
    fieldsOf(type).map((field) => {
      const on = rules
        .map((rule, i) => ({ ...rule, number: i + 1 }))
        .filter(({ tree }) => typesOf(tree).includes(type.key));
      const user = (r: (typeof on)[number]): User => ({
        to: `/rulebook/${r.tree.key}`,
        label: `${r.number} ${r.tree.title}`,
      });
      const paths = rules
        .map((rule, i) => ({ ...rule, number: i + 1 }))
        .filter(({ tree }) => !typesOf(tree).includes(type.key) || type.kind === 'register')
        .filter(({ tree }) => {
          const refs = typesOf(tree).flatMap((key) => fieldsOf(lexicon.type(key)).filter((f) => f.to === type.key));
          const text = JSON.stringify(tree);
          return refs.some((ref) => text.includes(`${ref.key}.${field.key}`));
        });
      const inTables = tables.filter(({ tree }) =>
        tree.inputs.some((input) => input.field === `${type.key}.${field.key}`),
      );
      return {
        type,
        field,
        readers: [
          ...on.filter((r) => fieldsRead(r.tree).includes(field.key)).map(user),
          ...paths.map(user),
          ...inTables.map(({ tree }) => ({ to: `/tables/${tree.key}`, label: tree.title })),
        ],
        writers: on.filter((r) => fieldsWritten(r.tree).includes(field.key)).map(user),
        text: `${field.key} ${field.label} ${field.question ?? ''} ${field.type} ${type.title} ${(field.options ?? []).map((o) => `${o.key} ${o.label}`).join(' ')}`.toLowerCase(),
      };
    }),
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
        <span className="soft ml-auto">Fields are part of the rulebook file; they cannot be edited here yet.</span>
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
                  <td className="mono">{field.key}</td>
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
                          <span key={option.key} title={option.key}>
                            {j > 0 && ' · '}
                            {option.label}
                          </span>
                        ))}
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
    </main>
  );
}
