import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { api } from '../api/client';

/** Records of a type, found by name or id however many there are. */
export function RecordPicker({
  type,
  find,
  chosen,
  names,
  label,
  several,
  onChosen,
}: {
  type: string;
  /** Where they are looked for; among all of the type when left out. */
  find?: (words: string) => Promise<{ id: string; name: string }[]>;
  chosen: string[];
  names: Record<string, string>;
  label: string;
  several?: boolean;
  onChosen: (chosen: string[]) => void;
}) {
  const [words, setWords] = useState('');
  const [asked, setAsked] = useState('');
  useEffect(() => {
    const timer = setTimeout(() => setAsked(words), 150);
    return () => clearTimeout(timer);
  }, [words]);
  const { data } = useQuery({
    queryKey: ['records', type, find ? 'limited' : 'all', asked],
    queryFn: async () => ({ records: find ? await find(asked) : (await api.records(type, asked)).records }),
    placeholderData: keepPreviousData,
  });
  const [known, setKnown] = useState<Record<string, string>>({});
  const found = data?.records ?? [];
  const first = asked === '' ? chosen.filter((id) => !found.some((r) => r.id === id)) : [];
  const shown = [...first.map((id) => ({ id, name: names[id] ?? known[id] ?? id })), ...found];
  return (
    <fieldset aria-label={label}>
      <input
        className="field w-full"
        placeholder="Name or id"
        aria-label={`Find in ${label}`}
        // biome-ignore lint/a11y/noAutofocus: it has just been asked for
        autoFocus
        value={words}
        onChange={(e) => setWords(e.target.value)}
      />
      <div className="max-h-[200px] overflow-auto py-1">
        {shown.map((record) => (
          <label key={record.id} className="flex items-center gap-2 px-2 leading-6 hover:bg-tealbg">
            <input
              type={several ? 'checkbox' : 'radio'}
              checked={chosen.includes(record.id)}
              onChange={() => {
                setKnown((old) => ({ ...old, [record.id]: record.name }));
                if (!several) onChosen([record.id]);
                else
                  onChosen(
                    chosen.includes(record.id) ? chosen.filter((id) => id !== record.id) : [...chosen, record.id],
                  );
              }}
            />
            <span className="truncate">{record.name}</span>
            <span className="mono soft ml-auto">{record.id}</span>
          </label>
        ))}
        {data && shown.length === 0 && <p className="soft px-2 py-1">Nothing is called that.</p>}
        {found.length === 50 && <p className="soft px-2 py-1">The first 50; go on typing for others.</p>}
      </div>
    </fieldset>
  );
}
