import { useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { fieldsOf } from '../../api/trees';
import { useWorkshop } from '../../app/workshop';
import { FormulaText } from '../../parts/FormulaText';
import { FieldSheet } from './FieldSheet';
import { KeyDialog, type Named } from './KeyDialog';
import { NewField, NewType } from './NewField';
import { TypeSheet } from './TypeSheet';
import { Users, useUsers } from './users';

/** Every field: what it is called, what it holds, who reads and who writes it. */
export default function Fields() {
  const { types: all, traced, lexicon } = useWorkshop();
  const { type: only, field: picked } = useParams();
  const types = only ? all.filter((t) => t.key === only) : all;
  const [adding, setAdding] = useState<'field' | 'type' | null>(null);
  const [search, setSearch] = useSearchParams();
  const [sort, setSort] = useState<'type' | 'label' | 'kind'>('type');
  const [renaming, setRenaming] = useState<Named | null>(null);
  const words = (search.get('q') ?? '').toLowerCase();
  const event = traced?.trace?.event;
  const changed = new Map((traced?.trace?.changes ?? []).map((change) => [change.field, change]));
  const { mentions, users } = useUsers();
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
      <div className="head flex-wrap">
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
        <nav className="flex flex-wrap gap-1" aria-label="Types">
          {[{ key: '', title: 'All' }, ...all].map((t) => (
            <Link
              key={t.key}
              to={`/fields${t.key ? `/${t.key}` : ''}`}
              aria-current={(only ?? '') === t.key ? 'page' : undefined}
              className={`border px-2 py-0.5 text-[13px] ${(only ?? '') === t.key ? 'border-ink bg-ink text-paper' : 'border-line bg-sheet hover:bg-faint'}`}
            >
              {t.title}
            </Link>
          ))}
        </nav>
        <span className="ml-auto flex gap-2">
          {only && (
            <button type="button" className="btn" onClick={() => setAdding('field')}>
              New field
            </button>
          )}
          <button type="button" className="btn" onClick={() => setAdding('type')}>
            New type
          </button>
        </span>
      </div>
      <div className={`grid min-h-0 flex-1 ${only ? 'grid-cols-[minmax(0,1fr)_470px]' : ''}`}>
        <div className="overflow-auto bg-sheet">
          <table className="ledger">
            <thead>
              <tr>
                {head('type', 'On')}
                {head('label', 'Label')}
                <th>Key</th>
                {head('kind', 'Type')}
                {!only && <th>Question or options</th>}
                <th>Read by</th>
                <th>Written by</th>
                {!only && <th className="w-[150px]">Sample in hand</th>}
              </tr>
            </thead>
            <tbody>
              {shown.map(({ type, field, readers, writers }, i) => {
                const value = event?.type === type.key ? changed.get(field.key) : undefined;
                return (
                  <tr key={`${type.key} ${field.key}`} className={field.key === picked ? 'bg-tealbg' : ''}>
                    <td className="soft">{sort !== 'type' || shown[i - 1]?.type !== type ? type.title : ''}</td>
                    <td className="font-semibold">
                      {field.builtIn ? (
                        field.label
                      ) : (
                        <Link to={`/fields/${type.key}/${field.key}`} className="hover:underline">
                          {field.label}
                        </Link>
                      )}
                      {field.required && <span className="soft font-normal"> required</span>}
                      {field.active === false && <span className="soft font-normal"> retired</span>}
                      {field.requester === 'hidden' && (
                        <span className="soft font-normal" title="Requesters never see it">
                          {' '}
                          staff only
                        </span>
                      )}
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
                    {!only && (
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
                    )}
                    <td className="max-w-[200px] text-[13px]">
                      <Users list={readers} most={6} />
                    </td>
                    <td className="max-w-[200px] text-[13px] text-plum">
                      <Users list={writers} most={6} />
                    </td>
                    {!only && (
                      <td className="text-[13px]">
                        {value && (
                          <>
                            <span className="was">{lexicon.say(value.before, field)}</span> →{' '}
                            <span className="now">{lexicon.say(value.after, field)}</span>
                          </>
                        )}
                      </td>
                    )}
                  </tr>
                );
              })}
            </tbody>
          </table>
          {shown.length === 0 && (
            <p className="p-6">No field is called that. Fields are found by key, label, question and option.</p>
          )}
        </div>
        {only &&
          (adding === 'field' ? (
            <NewField key={only} type={only} onDone={() => setAdding(null)} />
          ) : picked ? (
            <FieldSheet key={`${only} ${picked}`} type={only} field={picked} onRename={setRenaming} />
          ) : (
            <TypeSheet key={only} type={only} />
          ))}
      </div>
      {adding === 'type' && <NewType onDone={() => setAdding(null)} />}
      {renaming && <KeyDialog of={renaming} mentions={mentions} onClose={() => setRenaming(null)} />}
    </main>
  );
}
