import { changeField, changeKind, type RuleTree, type TableTree, typesOf } from '../../api/trees';
import type { Lexicon } from '../../app/lexicon';
import { sentence } from '../../app/sentence';

const text = (cell: unknown): string => (cell === '-' || cell === undefined || cell === null ? '–' : String(cell));

/** A quoted option by its label; anything else as it is written. */
function say(cell: unknown, labels: Map<string, string>): string {
  const written = text(cell);
  const parts = written.split(/,\s*/).map((part) => /^"(.*)"$/.exec(part)?.[1]);
  return parts.every((part): part is string => part !== undefined)
    ? parts.map((part) => labels.get(part) ?? part).join(', ')
    : written;
}

export function Sentence({ rule, lexicon }: { rule: RuleTree; lexicon: Lexicon }) {
  return (
    <>
      {sentence(rule, lexicon).map((piece, i) => (
        <span key={i} className={piece.tone === 'strong' || piece.tone === 'written' ? 'font-bold' : ''}>
          {piece.text}
        </span>
      ))}
    </>
  );
}

/** What a grid looks like on paper: heads, and rows with the cells of another version beside those that differ. */
export function PlainGrid({
  heads,
  checks,
  rows,
  before,
}: {
  heads: { title: string; labels: Map<string, string> }[];
  /** How many of the columns are checks. */
  checks: number;
  rows: { if: unknown[]; then: unknown[] }[];
  /** The rows of the version that it is compared with. */
  before?: { if: unknown[]; then: unknown[] }[] | undefined;
}) {
  const count = Math.max(rows.length, before?.length ?? 0);
  const cells = (row: { if: unknown[]; then: unknown[] } | undefined) => (row ? [...row.if, ...row.then] : []);
  return (
    <table className="border-collapse text-[13px]">
      <thead>
        <tr>
          <th aria-label="Row" />
          {heads.map((head, i) => (
            <th
              key={i}
              className={`border border-line px-2 py-1 text-left align-bottom ${i === checks ? 'border-l-[3px] border-l-ink' : ''}`}
            >
              {head.title}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {Array.from({ length: count }, (_, r) => {
          const [now, was] = [cells(rows[r]), cells(before?.[r])];
          return (
            <tr key={r}>
              <td className="soft pr-2 text-right tabular-nums">
                {before && rows[r] === undefined ? '−' : before && before[r] === undefined ? '+' : ''}
                {r + 1}
              </td>
              {heads.map((head, c) => {
                const [a, b] = [say(was[c], head.labels), say(now[c], head.labels)];
                const differs = before !== undefined && (a !== b || rows[r] === undefined || before[r] === undefined);
                return (
                  <td
                    key={c}
                    className={`border border-line px-2 py-1 ${c === checks ? 'border-l-[3px] border-l-ink' : ''} ${differs ? 'bg-plumbg' : ''}`}
                  >
                    {differs && before?.[r] !== undefined && <del className="text-red">{a}</del>}
                    {differs && before?.[r] !== undefined && rows[r] !== undefined && ' '}
                    {rows[r] !== undefined && <span className={differs ? 'font-bold text-plum' : ''}>{b}</span>}
                  </td>
                );
              })}
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** The options that a formula or a field may stand for. */
function labelsOf(key: string, types: string | string[], lexicon: Lexicon): Map<string, string> {
  const field = lexicon.field(types, key);
  return new Map([
    ...(field?.options ?? []).map((o): [string, string] => [o.key, o.label]),
    ...(field?.type === 'person' ? lexicon.allPeople().map((p): [string, string] => [p.key, p.name]) : []),
    ...(field?.type === 'team' ? lexicon.allTeams().map((t): [string, string] => [t.key, t.name]) : []),
  ]);
}

export function headsOf(rule: RuleTree, lexicon: Lexicon) {
  const types = typesOf(rule);
  return [
    ...(rule.checks ?? []).map((check) => ({
      title: lexicon.field(types, String(check.of))?.label ?? String(check.of),
      labels: labelsOf(String(check.of), types, lexicon),
    })),
    ...rule.changes.map((change) => {
      const field = changeField(change);
      const label = field === '' ? '' : ` ${lexicon.label(types, field)}`;
      return {
        title: `${changeKind(change)}${label}${change.of === undefined ? '' : ` of ${change.of}`}`,
        labels: field === '' ? new Map<string, string>() : labelsOf(field, types, lexicon),
      };
    }),
  ];
}

/** A rule in two versions: the sentence where it differs, and the grid cell by cell. */
export function RuleDiff({ before, after, lexicon }: { before: RuleTree; after: RuleTree; lexicon: Lexicon }) {
  const words = (rule: RuleTree) =>
    sentence(rule, lexicon)
      .map((piece) => piece.text)
      .join('');
  const same = JSON.stringify([before.checks, before.changes]) === JSON.stringify([after.checks, after.changes]);
  return (
    <div className="flex flex-col gap-2 px-3 py-2">
      {before.title !== after.title && (
        <p>
          <del className="text-red">{before.title}</del> <b className="text-plum">{after.title}</b>
        </p>
      )}
      {words(before) !== words(after) ? (
        <>
          <p>
            <del className="text-red">{words(before)}</del>
          </p>
          <p>
            <Sentence rule={after} lexicon={lexicon} />
          </p>
        </>
      ) : (
        <p className="soft">{words(after)}</p>
      )}
      {(['purpose', 'owner', 'enabled'] as const).map(
        (key) =>
          before[key] !== after[key] && (
            <p key={key}>
              {key === 'enabled' ? 'in use' : key}: <del className="text-red">{String(before[key] ?? '–')}</del>{' '}
              <b className="text-plum">{String(after[key] ?? '–')}</b>
            </p>
          ),
      )}
      {JSON.stringify(before.rows) !== JSON.stringify(after.rows) || !same ? (
        same ? (
          <PlainGrid
            heads={headsOf(after, lexicon)}
            checks={(after.checks ?? []).length}
            rows={after.rows}
            before={before.rows}
          />
        ) : (
          <div className="flex flex-wrap gap-6">
            <div>
              <p className="soft">before</p>
              <PlainGrid heads={headsOf(before, lexicon)} checks={(before.checks ?? []).length} rows={before.rows} />
            </div>
            <div>
              <p className="soft">now</p>
              <PlainGrid heads={headsOf(after, lexicon)} checks={(after.checks ?? []).length} rows={after.rows} />
            </div>
          </div>
        )
      ) : null}
    </div>
  );
}

export function TablePlain({ table, lexicon }: { table: TableTree; lexicon: Lexicon }) {
  const labels = (of: string | undefined) => {
    const [type, key] = (of ?? '').split('.', 2);
    return type && key ? labelsOf(key, type, lexicon) : new Map<string, string>();
  };
  return (
    <PlainGrid
      heads={[
        ...table.inputs.map((i) => ({ title: i.label ?? i.key, labels: labels(i.field) })),
        ...table.outputs.map((o) => ({ title: o.label ?? o.key, labels: labels(o.field) })),
      ]}
      checks={table.inputs.length}
      rows={table.rows}
    />
  );
}
