import { useState } from 'react';
import { Link, type To } from 'react-router';
import type { TicketRecord } from '../../api/client';
import type { FieldTree, TypeTree } from '../../api/trees';
import type { Lexicon } from '../../app/lexicon';

/** A register that refers to itself, as an outline; arrows open and close. */
export function Tree({
  type,
  parent,
  records,
  lexicon,
  openId,
  link,
}: {
  type: TypeTree;
  parent: FieldTree;
  records: TicketRecord[];
  lexicon: Lexicon;
  openId: string | null;
  link: (id: string) => To;
}) {
  const [closed, setClosed] = useState<Set<string>>(new Set());
  const here = new Set(records.map((r) => r.id));
  const below = new Map<string, TicketRecord[]>();
  for (const record of records) {
    const above = record.values[parent.key];
    const holder = typeof above === 'string' && here.has(above) ? above : '';
    below.set(holder, [...(below.get(holder) ?? []), record]);
  }
  const others = type.fields
    .filter(
      (f) =>
        f.key !== (type.name_field ?? '') && f.key !== parent.key && f.type !== 'long_text' && f.type !== 'rich_text',
    )
    .slice(0, 5);
  const toggle = (id: string, open: boolean) => {
    const next = new Set(closed);
    if (open) next.delete(id);
    else next.add(id);
    setClosed(next);
  };
  const rows: { record: TicketRecord; depth: number }[] = [];
  const walk = (holder: string, depth: number) => {
    for (const record of below.get(holder) ?? []) {
      rows.push({ record, depth });
      if (!closed.has(record.id) && depth < 40) walk(record.id, depth + 1);
    }
  };
  walk('', 0);
  return (
    <table className="ledger" data-test="tree">
      <thead>
        <tr>
          <th>{lexicon.label(type.key, type.name_field ?? 'name')}</th>
          <th>Id</th>
          {others.map((f) => (
            <th key={f.key}>{f.label}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map(({ record, depth }) => {
          const has = (below.get(record.id)?.length ?? 0) > 0;
          const isOpen = !closed.has(record.id);
          return (
            <tr key={record.id} className={record.id === openId ? 'bg-tealbg' : ''} data-test={`node-${record.id}`}>
              <td style={{ paddingLeft: 10 + depth * 22 }}>
                <button
                  type="button"
                  className="w-5 text-soft"
                  disabled={!has}
                  aria-expanded={has ? isOpen : undefined}
                  aria-label={
                    has ? `${isOpen ? 'Close' : 'Open'} ${lexicon.records[record.id] ?? record.id}` : 'Nothing below'
                  }
                  onClick={() => toggle(record.id, !isOpen)}
                  onKeyDown={(e) => {
                    if (e.key === 'ArrowRight') toggle(record.id, true);
                    if (e.key === 'ArrowLeft') toggle(record.id, false);
                  }}
                >
                  {has ? (isOpen ? '▾' : '▸') : '·'}
                </button>
                <Link to={link(record.id)} className="hover:underline">
                  {String(record.values[type.name_field ?? 'name'] ?? record.id)}
                </Link>
              </td>
              <td className="mono soft">{record.id}</td>
              {others.map((f) => (
                <td key={f.key}>
                  {record.values[f.key] === undefined ? (
                    <span className="soft">–</span>
                  ) : (
                    lexicon.say(record.values[f.key], f)
                  )}
                </td>
              ))}
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
