import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { typesOf } from '../../api/trees';
import { useWorkshop } from '../../app/workshop';
import { useMentions } from '../../parts/useMentions';

/** Which rules read and which write which fields of a type, in running order: read ○, write ●, both ◉. */
export default function Uses() {
  const shop = useWorkshop();
  const mentions = useMentions();
  const tickets = shop.types.filter((t) => t.kind === 'ticket');
  const [type, setType] = useState(tickets[0]?.key ?? '');
  const uses = useMemo(() => {
    const found = new Map<string, Map<string, { reads: boolean; writes: boolean }>>();
    for (const m of mentions ?? []) {
      if (m.kind !== 'rules' || m.type !== type || m.option !== null) continue;
      const rule = found.get(m.key) ?? new Map();
      const use = rule.get(m.field) ?? { reads: false, writes: false };
      rule.set(m.field, { reads: use.reads || !m.writes, writes: use.writes || m.writes });
      found.set(m.key, rule);
    }
    return found;
  }, [mentions, type]);
  const rules = shop.rules.filter(({ tree }) => uses.has(tree.key));
  const fields = (shop.types.find((t) => t.key === type)?.fields ?? []).filter((f) =>
    [...uses.values()].some((rule) => rule.has(f.key)),
  );
  const builtIn = [...new Set([...uses.values()].flatMap((rule) => [...rule.keys()]))].filter(
    (key) => !fields.some((f) => f.key === key),
  );
  const columns = [
    ...builtIn.map((key) => ({
      key,
      label: shop.lexicon.field(type, key)?.label ?? `${key.charAt(0).toUpperCase()}${key.slice(1)}`,
    })),
    ...fields.map((f) => ({ key: f.key, label: f.label })),
  ];
  return (
    <>
      <p className="mb-3 flex items-center gap-3">
        <select className="field" aria-label="Type" value={type} onChange={(e) => setType(e.target.value)}>
          {shop.types.map((t) => (
            <option key={t.key} value={t.key}>
              {t.title}
            </option>
          ))}
        </select>
        <span className="soft">
          ○ reads, ● writes, ◉ both. Rules from the top stand in running order: a rule sees what those above it wrote.
        </span>
      </p>
      {rules.length === 0 ? (
        <p>No rule reads or writes a field of it.</p>
      ) : (
        <div className="overflow-auto" role="region" aria-label="Reads and writes" tabIndex={0}>
          <table className="border-collapse text-[13px]" data-test="uses">
            <thead>
              <tr>
                <th className="sticky left-0 bg-sheet" />
                {columns.map((c) => (
                  <th key={c.key} className="h-[124px] w-6 border-b border-line p-0 align-bottom font-normal">
                    <span className="block w-6 whitespace-nowrap [writing-mode:vertical-rl] rotate-180 py-1 text-left">
                      {c.label}
                    </span>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rules.map(({ tree }) => (
                <tr key={tree.key} className="hover:bg-paper">
                  <th className="sticky left-0 max-w-[330px] truncate border-b border-faint bg-sheet pr-3 text-left font-normal">
                    <Link className="leading-6 hover:underline" to={`/rulebook/${tree.key}`}>
                      {tree.title}
                    </Link>
                    {typesOf(tree).length > 1 && <span className="soft"> ({typesOf(tree).length} types)</span>}
                  </th>
                  {columns.map((c) => {
                    const use = uses.get(tree.key)?.get(c.key);
                    return (
                      <td
                        key={c.key}
                        className={`w-6 border-b border-l border-faint text-center ${use?.writes ? 'text-plum' : ''}`}
                        title={
                          use &&
                          `${tree.title} ${use.reads && use.writes ? 'reads and writes' : use.writes ? 'writes' : 'reads'} ${c.label}`
                        }
                      >
                        {use && (use.reads && use.writes ? '◉' : use.writes ? '●' : '○')}
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </>
  );
}
