import { Popover } from 'radix-ui';
import { useEffect, useState } from 'react';
import type { FieldTree } from '../api/trees';
import type { Lexicon } from '../app/lexicon';
import { RecordPicker } from './RecordPicker';
import { RichTextEditor } from './RichText';
import { Several } from './Several';
import { readDuration, sayDuration, toLocal } from './time';

/** As many as the server lists at once: from there on they are looked for. */
const MOST_LISTED = 50;

interface Props {
  field: FieldTree;
  value: unknown;
  lexicon: Lexicon;
  /** Records that a reference can point to. */
  records?: { id: string; name: string }[];
  /** Where more of them are looked for than fit in a list. */
  find?: (words: string) => Promise<{ id: string; name: string }[]>;
  /** States that can be moved to; all when left out. */
  allowed?: string[];
  invalid?: boolean;
  label?: string;
  autoFocus?: boolean;
  onChange: (value: unknown) => void;
}

/** Written text becomes the field's kind of value; what cannot be read stays text, and the server says what is wrong. */
export function readValue(text: string, field: FieldTree): unknown {
  if (text.trim() === '') return null;
  if (field.type === 'number' || field.type === 'percent') {
    const number = Number(text.replace(',', '.'));
    return Number.isFinite(number) ? number : text;
  }
  if (field.type === 'duration') return readDuration(text);
  if (field.type === 'tags') {
    const tags = text.split(/[\s,]+/).filter((tag) => tag !== '');
    return tags.length === 0 ? null : tags;
  }
  return text;
}

const shown = (value: unknown, field?: FieldTree): string =>
  field?.type === 'duration' && typeof value === 'string'
    ? sayDuration(value)
    : value === null || value === undefined
      ? ''
      : Array.isArray(value)
        ? value.join(', ')
        : String(value);

/** The editor that fits a field. */
export function ValueEditor({
  field,
  value,
  lexicon,
  records,
  find,
  allowed,
  invalid,
  label,
  autoFocus,
  onChange,
}: Props) {
  const [text, setText] = useState(shown(value, field));
  useEffect(() => setText(shown(value, field)), [value]);
  const common = { 'aria-label': label ?? field.label, 'aria-invalid': invalid ?? false, 'data-field': field.key };
  const choices = (): { key: string; label: string }[] | null => {
    switch (field.type) {
      case 'choice':
        return (field.options ?? []).filter((option) => option.active !== false || option.key === value);
      case 'state':
        return (field.options ?? []).filter(
          (option) => !allowed || option.key === value || allowed.includes(option.key),
        );
      case 'person':
        return lexicon
          .allPeople()
          .filter((person) => person.active || person.key === value)
          .map((person) => ({ key: person.key, label: person.name }));
      case 'team':
        return lexicon.allTeams().map((team) => ({ key: team.key, label: team.name }));
      case 'reference': {
        const list = (records ?? []).map((record) => ({ key: record.id, label: `${record.name} · ${record.id}` }));
        if (typeof value === 'string' && !list.some((r) => r.key === value))
          list.unshift({ key: value, label: lexicon.say(value, field) });
        return list;
      }
      case 'yes_no':
        return [
          { key: 'true', label: 'Yes' },
          { key: 'false', label: 'No' },
        ];
      default:
        return null;
    }
  };
  const several = (options: { key: string; label: string }[]) => (
    <Several
      options={options}
      chosen={Array.isArray(value) ? value.map(String) : []}
      label={label ?? field.label}
      invalid={invalid ?? false}
      autoFocus={autoFocus ?? false}
      onChosen={(chosen) => onChange(chosen.length === 0 ? null : chosen)}
    />
  );
  const chosen = Array.isArray(value) ? value : [];
  switch (field.type) {
    case 'choices':
      return several((field.options ?? []).filter((o) => o.active !== false || chosen.includes(o.key)));
    case 'people':
      return several(
        lexicon
          .allPeople()
          .filter((p) => p.active || chosen.includes(p.key))
          .map((p) => ({ key: p.key, label: p.name })),
      );
    case 'references': {
      const known = (records ?? []).map((r) => ({ key: r.id, label: `${r.name} · ${r.id}` }));
      const others = chosen
        .filter((id) => !known.some((r) => r.key === id))
        .map((id) => ({ key: String(id), label: lexicon.say(id, { ...field, type: 'reference' }) }));
      return several([...others, ...known]);
    }
    case 'rich_text':
      return (
        <RichTextEditor
          html={typeof value === 'string' ? value : ''}
          label={label ?? field.label}
          invalid={invalid ?? false}
          onChange={onChange}
        />
      );
    case 'two_step_choice':
      return (
        <TwoSteps field={field} value={value} common={common} autoFocus={autoFocus ?? false} onChange={onChange} />
      );
    case 'date':
    case 'date_time': {
      const local = typeof value === 'string' ? (field.type === 'date' ? value : toLocal(value, lexicon.timezone)) : '';
      return (
        <input
          type={field.type === 'date' ? 'date' : 'datetime-local'}
          className="field w-full"
          {...common}
          // biome-ignore lint/a11y/noAutofocus: it has just been asked for
          autoFocus={autoFocus}
          value={local}
          title={field.type === 'date_time' ? `On the clock of ${lexicon.timezone}` : undefined}
          onChange={(event) => onChange(event.target.value === '' ? null : event.target.value)}
        />
      );
    }
  }
  if (field.type === 'reference' && (records ?? []).length >= MOST_LISTED)
    return (
      <Popover.Root defaultOpen={autoFocus ?? false}>
        <Popover.Trigger className="pick w-full" {...common}>
          {typeof value === 'string' ? lexicon.say(value, field) : <span className="soft">–</span>}
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content className="z-50 w-[320px] border border-ink bg-sheet p-1" align="start" sideOffset={2}>
            <RecordPicker
              type={field.to ?? ''}
              {...(find ? { find } : {})}
              chosen={typeof value === 'string' ? [value] : []}
              names={lexicon.records}
              label={common['aria-label']}
              onChosen={([id]) => onChange(id ?? null)}
            />
            {typeof value === 'string' && (
              <button type="button" className="link px-2 py-1" onClick={() => onChange(null)}>
                Empty it
              </button>
            )}
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    );
  const list = choices();
  if (list) {
    return (
      <select
        className="field w-full"
        {...common}
        // biome-ignore lint/a11y/noAutofocus: it has just been asked for
        autoFocus={autoFocus}
        value={shown(value)}
        onChange={(event) => {
          const picked = event.target.value;
          onChange(picked === '' ? null : field.type === 'yes_no' ? picked === 'true' : picked);
        }}
      >
        {field.type !== 'state' && <option value="">–</option>}
        {list.map((option) => (
          <option key={option.key} value={option.key}>
            {option.label}
          </option>
        ))}
      </select>
    );
  }
  const keep = () => {
    const next = readValue(text, field);
    if (JSON.stringify(next) !== JSON.stringify(value ?? null)) onChange(next);
  };
  if (field.type === 'long_text')
    return (
      <textarea
        className="field w-full"
        rows={4}
        {...common}
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          onChange(readValue(event.target.value, field));
        }}
      />
    );
  return (
    <input
      className="field w-full"
      {...common}
      // biome-ignore lint/a11y/noAutofocus: it has just been asked for
      autoFocus={autoFocus}
      inputMode={field.type === 'number' || field.type === 'percent' ? 'decimal' : 'text'}
      placeholder={field.type === 'tags' ? 'tag, tag' : field.type === 'duration' ? '1 d 12 h, 90 min' : undefined}
      value={text}
      autoComplete="off"
      onChange={(event) => setText(event.target.value)}
      onInput={(event) => {
        // numbers are passed on as they are typed, so that what follows from them can be shown
        const next = readValue(event.currentTarget.value, field);
        if (field.type === 'number' || field.type === 'percent' || field.type === 'text') onChange(next);
      }}
      onBlur={keep}
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
    />
  );
}

/** Two selects, the second filled from the first. */
function TwoSteps({
  field,
  value,
  common,
  autoFocus,
  onChange,
}: {
  field: FieldTree;
  value: unknown;
  common: { 'aria-label': string; 'aria-invalid': boolean; 'data-field': string };
  autoFocus: boolean;
  onChange: (value: unknown) => void;
}) {
  const options = (field.options ?? []).filter((o) => o.active !== false);
  const holder = (key: unknown) => options.find((o) => o.key === key || o.children?.some((child) => child.key === key));
  const [first, setFirst] = useState(holder(value)?.key ?? '');
  const below = options.find((o) => o.key === first)?.children ?? [];
  return (
    <span className="flex flex-col gap-1">
      <select
        className="field w-full"
        {...common}
        // biome-ignore lint/a11y/noAutofocus: it has just been asked for
        autoFocus={autoFocus}
        value={first}
        onChange={(event) => {
          const next = options.find((o) => o.key === event.target.value);
          setFirst(next?.key ?? '');
          // a first step that has nothing below it is the choice itself
          if (!next?.children?.length) onChange(next?.key ?? null);
          else if (!next.children.some((child) => child.key === value)) onChange(null);
        }}
      >
        <option value="">–</option>
        {options.map((option) => (
          <option key={option.key} value={option.key}>
            {option.label}
          </option>
        ))}
      </select>
      {below.length > 0 && (
        <select
          className="field w-full"
          aria-label={`${common['aria-label']}, second step`}
          value={below.some((child) => child.key === value) ? String(value) : ''}
          onChange={(event) => onChange(event.target.value === '' ? null : event.target.value)}
        >
          <option value="">choose …</option>
          {below
            .filter((child) => child.active !== false)
            .map((child) => (
              <option key={child.key} value={child.key}>
                {child.label}
              </option>
            ))}
        </select>
      )}
    </span>
  );
}

/** A percent as a bar with ticks at its band limits; the figure is always written. */
export function PercentBar({ value, bands }: { value: number; bands?: number[] }) {
  return (
    <span className="inline-flex items-center gap-2 whitespace-nowrap">
      <span className="relative inline-block h-2 w-[90px] border border-line bg-sheet">
        <span className="absolute inset-y-0 left-0 bg-teal" style={{ width: `${value}%` }} />
        {(bands ?? []).map((band) => (
          <span key={band} className="absolute -inset-y-[3px] w-px bg-ink" style={{ left: `${band}%` }} />
        ))}
      </span>
      {value} %
    </span>
  );
}
