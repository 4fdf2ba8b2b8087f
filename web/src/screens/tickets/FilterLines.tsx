import { Popover } from 'radix-ui';
import type { FieldTree, OptionTree } from '../../api/trees';
import type { DeskView } from '../../app/desk';
import { RecordPicker } from '../../parts/RecordPicker';
import { Several } from '../../parts/Several';
import { type Line, type Test, testsOf } from './lines';

const ME = { key: '@me', label: 'me' };

function optionsOf(field: FieldTree, view: DeskView): { key: string; label: string }[] | null {
  const flat = (options: OptionTree[]): { key: string; label: string }[] =>
    options.flatMap((o) =>
      o.children ? o.children.map((c) => ({ key: c.key, label: `${o.label} › ${c.label}` })) : [o],
    );
  switch (field.type) {
    case 'state':
      return [{ key: 'open', label: 'open, any' }, { key: 'closed', label: 'closed, any' }, ...(field.options ?? [])];
    case 'choice':
    case 'choices':
    case 'two_step_choice':
      return flat(field.options ?? []);
    case 'person':
    case 'people':
      return [ME, ...view.lexicon.allPeople().map((p) => ({ key: p.key, label: p.name }))];
    case 'team':
      return view.lexicon.allTeams().map((t) => ({ key: t.key, label: t.name }));
    case 'yes_no':
      return [
        { key: 'true', label: 'Yes' },
        { key: 'false', label: 'No' },
      ];
    default:
      return null;
  }
}

function Values({
  line,
  field,
  view,
  names,
  set,
}: {
  line: Line;
  field: FieldTree;
  view: DeskView;
  names: Record<string, string>;
  set: (of: string[]) => void;
}) {
  if (line.is === 'empty' || line.is === 'filled') return null;
  const label = `Value of ${field.label}`;
  const options = optionsOf(field, view);
  if (options || field.to) {
    const say = (key: string) => options?.find((o) => o.key === key)?.label ?? names[key] ?? key;
    return (
      <Popover.Root defaultOpen={line.of.length === 0}>
        <Popover.Trigger className="pick max-w-[360px]" aria-label={label}>
          {line.of.length === 0 ? <span className="soft">choose …</span> : line.of.map(say).join(' or ')}
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content className="z-50 w-[280px] border border-ink bg-sheet p-1" align="start" sideOffset={2}>
            {options ? (
              <Several options={options} chosen={line.of} label={label} autoFocus onChosen={set} />
            ) : (
              <RecordPicker type={field.to ?? ''} chosen={line.of} names={names} label={label} several onChosen={set} />
            )}
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    );
  }
  const isDate = (field.type === 'date' || field.type === 'date_time') && line.is !== 'within';
  return (
    <input
      className="field w-[150px]"
      aria-label={label}
      type={isDate ? 'date' : 'text'}
      inputMode={line.is === 'least' || line.is === 'most' || line.is === 'within' ? 'decimal' : 'text'}
      placeholder={line.is === 'within' ? '30' : ''}
      value={(line.of[0] ?? '').slice(0, isDate ? 10 : 190)}
      onChange={(e) => set(e.target.value === '' ? [] : [e.target.value])}
    />
  );
}

/** Filters as lines, all of which hold. */
export function FilterLines({
  lines,
  fields,
  view,
  names,
  onLines,
}: {
  lines: Line[];
  fields: FieldTree[];
  view: DeskView;
  names: Record<string, string>;
  onLines: (lines: Line[]) => void;
}) {
  const watcher: FieldTree = { key: 'watcher', label: 'Watched by', type: 'person' };
  const all = [...fields, watcher];
  const change = (i: number, line: Line) => onLines(lines.map((old, j) => (i === j ? line : old)));
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5" data-test="filter-lines">
      {lines.map((line, i) => {
        const field = all.find((f) => f.key === line.field);
        if (!field)
          return (
            <span key={`${line.field}-${i}`} className="chip">
              no field “{line.field}” here
              <button
                type="button"
                aria-label="Drop this line"
                onClick={() => onLines(lines.filter((_, j) => j !== i))}
              >
                ×
              </button>
            </span>
          );
        const tests = testsOf(field).filter(([test]) => field.key !== 'watcher' || test === 'any' || test === 'none');
        return (
          <span key={`${line.field}-${i}`} className="flex items-center gap-1" data-test={`line-${line.field}`}>
            {i > 0 && <span className="soft mr-1">and</span>}
            <b>{field.label}</b>
            <select
              className="field"
              aria-label={`Test of ${field.label}`}
              value={line.is}
              onChange={(e) => {
                const is = e.target.value as Test;
                const keeps = ['any', 'none'].includes(is) === ['any', 'none'].includes(line.is);
                change(i, { ...line, is, of: keeps && is !== 'within' ? line.of : [] });
              }}
            >
              {tests.map(([test, words]) => (
                <option key={test} value={test}>
                  {words}
                </option>
              ))}
            </select>
            <Values line={line} field={field} view={view} names={names} set={(of) => change(i, { ...line, of })} />
            <button
              type="button"
              className="px-1 text-soft hover:text-ink"
              aria-label={`Drop the line about ${field.label}`}
              onClick={() => onLines(lines.filter((_, j) => j !== i))}
            >
              ×
            </button>
          </span>
        );
      })}
      <select
        className="field"
        aria-label="Add a filter line"
        value=""
        onChange={(e) => {
          const field = all.find((f) => f.key === e.target.value);
          if (field) onLines([...lines, { field: field.key, is: testsOf(field)[0]?.[0] ?? 'any', of: [] }]);
        }}
      >
        <option value="">{lines.length === 0 ? 'Only where …' : 'and where …'}</option>
        {all.map((field) => (
          <option key={field.key} value={field.key}>
            {field.label}
          </option>
        ))}
      </select>
    </div>
  );
}
