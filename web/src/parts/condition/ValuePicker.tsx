import { useQuery } from '@tanstack/react-query';
import { Popover } from 'radix-ui';
import { useEffect, useState } from 'react';
import { api } from '../../api/client';
import { type FieldTree, quote, quoted } from '../../api/trees';
import { optionsOf, type World } from '../complete';
import { FormulaInput } from '../FormulaInput';
import { readDuration } from '../time';

interface Props {
  values: string[];
  /** How many there are; null for any number. */
  count: number | null;
  field: FieldTree | undefined;
  world: World;
  label: string;
  onValues: (values: string[]) => void;
}

/** The values that a field can be held against, where they can be listed; null where they are written. */
function useListed(field: FieldTree | undefined, world: World): { key: string; label: string }[] | null {
  const to = field?.to ?? '';
  const { data } = useQuery({ queryKey: ['records of', [to]], queryFn: () => api.records(to, ''), enabled: to !== '' });
  if (to !== '') return (data?.records ?? []).map((r) => ({ key: r.id, label: r.name }));
  const options = optionsOf(field, world.lexicon);
  return options.length > 0 ? options : null;
}

/** One value out of a list, or a formula. */
function Listed({ value, listed, world, label, onValue }: ListedProps) {
  const key = quoted(value);
  const [writing, setWriting] = useState(false);
  if (writing || (value !== '' && key === null))
    return (
      <FormulaInput
        value={value}
        label={label}
        world={world}
        autoFocus={writing}
        onKeep={(text) => {
          setWriting(false);
          onValue(text);
        }}
      />
    );
  const known = listed.some((option) => option.key === key);
  return (
    <select
      className="field"
      aria-label={label}
      value={key ?? ''}
      onChange={(event) => (event.target.value === ' formula' ? setWriting(true) : onValue(quote(event.target.value)))}
    >
      {key === null && <option value="">choose …</option>}
      {key !== null && !known && <option value={key}>{key} (not known)</option>}
      {listed.map((option) => (
        <option key={option.key} value={option.key}>
          {option.label}
        </option>
      ))}
      <option value=" formula">a formula …</option>
    </select>
  );
}

interface ListedProps {
  value: string;
  listed: { key: string; label: string }[];
  world: World;
  label: string;
  onValue: (value: string) => void;
}

/** Several values out of a list. */
function Several({
  values,
  listed,
  label,
  onValues,
}: Omit<ListedProps, 'value' | 'onValue' | 'world'> & Pick<Props, 'values' | 'onValues'>) {
  const say = (value: string) => {
    const key = quoted(value);
    return listed.find((option) => option.key === key)?.label ?? value;
  };
  return (
    <Popover.Root>
      <Popover.Trigger className="pick max-w-[340px]" aria-label={label}>
        {values.length === 0 ? <span className="soft">choose …</span> : values.map(say).join(', ')}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="menu max-h-[320px] overflow-auto" align="start" sideOffset={2}>
          {listed.map((option) => {
            const value = quote(option.key);
            return (
              <label key={option.key} className="menu-item justify-start! gap-2!">
                <input
                  type="checkbox"
                  checked={values.includes(value)}
                  onChange={(event) =>
                    onValues(event.target.checked ? [...values, value] : values.filter((old) => old !== value))
                  }
                />
                {option.label}
              </label>
            );
          })}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

const TEMPORAL: Record<string, string> = { date: 'date', date_time: 'datetime-local', duration: 'text' };

/** The text of a literal such as @"P3D". */
const literal = (value: string): string | null => /^@"([^"]*)"$/.exec(value)?.[1] ?? null;

const NUMBER = /^-?\d+(\.\d+)?$/;

/** A number or a text as people write it; a formula where that does not do. */
function Written({
  value,
  field,
  world,
  label,
  onValue,
}: Omit<ListedProps, 'listed'> & { field: FieldTree | undefined }) {
  const isNumber = field?.type === 'number' || field?.type === 'percent';
  const temporal = TEMPORAL[field?.type ?? ''];
  const plain = temporal ? literal(value) : isNumber ? (NUMBER.test(value) ? value : null) : quoted(value);
  const [text, setText] = useState(plain ?? '');
  const [writing, setWriting] = useState(false);
  useEffect(() => setText(plain ?? ''), [plain]);
  if (!field || writing || (value !== '' && plain === null))
    return (
      <FormulaInput
        value={value}
        label={label}
        placeholder="a formula"
        world={world}
        autoFocus={writing}
        onKeep={(next) => {
          setWriting(false);
          onValue(next);
        }}
      />
    );
  const keep = () => {
    const bare = text.trim().replace(isNumber ? ',' : '\0', '.');
    if (bare === (plain ?? '')) return;
    // what is no number is taken for a formula, and the check says what is wrong with it
    const said = field?.type === 'duration' ? readDuration(bare) : bare;
    onValue(bare === '' ? '' : temporal ? `@"${said}"` : isNumber ? bare : quote(bare));
  };
  return (
    <>
      <input
        className={`field ${isNumber ? 'w-[90px]' : 'w-[180px]'}`}
        type={temporal ?? 'text'}
        placeholder={field.type === 'duration' ? '3 d, 90 min' : undefined}
        aria-label={label}
        inputMode={isNumber ? 'decimal' : 'text'}
        value={text}
        autoComplete="off"
        onChange={(event) => setText(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => event.key === 'Enter' && keep()}
      />
      {field.type === 'percent' && <span className="soft">%</span>}
      <button type="button" className="link font-normal!" onClick={() => setWriting(true)}>
        formula
      </button>
    </>
  );
}

/** What a line holds its field against. */
export function ValuePicker({ values, count, field, world, label, onValues }: Props) {
  const listed = useListed(field, world);
  if (count === null && listed) return <Several values={values} listed={listed} label={label} onValues={onValues} />;
  if (count === null) return <WrittenList values={values} label={label} onValues={onValues} />;
  return Array.from({ length: count }, (_, i) => {
    const value = values[i] ?? '';
    const put = (next: string) =>
      onValues(Array.from({ length: count }, (_, j) => (j === i ? next : (values[j] ?? ''))));
    const name = count === 1 ? label : `${label} ${i + 1}`;
    return (
      <span key={name} className="flex items-center gap-2">
        {i > 0 && <span className="soft">and</span>}
        {listed ? (
          <Listed value={value} listed={listed} world={world} label={name} onValue={put} />
        ) : (
          <Written value={value} field={field} world={world} label={name} onValue={put} />
        )}
      </span>
    );
  });
}

/** Several texts or numbers, with commas between. */
function WrittenList({ values, label, onValues }: Pick<Props, 'values' | 'label' | 'onValues'>) {
  const shown = values.map((value) => quoted(value) ?? value).join(', ');
  const [text, setText] = useState(shown);
  useEffect(() => setText(shown), [shown]);
  const keep = () => {
    if (text === shown) return;
    const words = text.split(',').map((word) => word.trim());
    onValues(words.filter((word) => word !== '').map((word) => (NUMBER.test(word) ? word : quote(word))));
  };
  return (
    <input
      className="field w-[220px]"
      aria-label={label}
      placeholder="one, another"
      value={text}
      autoComplete="off"
      onChange={(event) => setText(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => event.key === 'Enter' && keep()}
    />
  );
}
