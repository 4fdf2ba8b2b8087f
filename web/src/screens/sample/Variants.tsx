import { DropdownMenu } from 'radix-ui';
import { useState } from 'react';
import type { ReplayedSample } from '../../api/client';
import { type FieldTree, fieldsOf, type SampleTree, type VariantsTree } from '../../api/trees';
import { usePerson } from '../../app/session';
import { useWorkshop } from '../../app/workshop';
import { pasteBlock, readCell, typeOf, writeCell } from './variants';

/** One story, many lines: values in, outcomes out. Cells are written like those of a spreadsheet, and pasted from one. */
export function Variants({
  tree,
  result,
  edit,
}: {
  tree: SampleTree;
  result: ReplayedSample | undefined;
  edit: (tree: SampleTree) => void;
}) {
  const { lexicon } = useWorkshop();
  const person = usePerson();
  const variants = tree.variants;
  const last = tree.steps.at(-1);
  const main = last?.as ?? last?.change ?? last?.on ?? '';
  const type = last?.create ?? last?.receive?.opens ?? typeOf(tree, main) ?? '';
  const put = (next: VariantsTree | null) => {
    const { variants: _, ...rest } = tree;
    edit(next === null ? rest : { ...tree, variants: next });
  };
  const fieldOf = (name: string): FieldTree | undefined => {
    const [id, key] = name.includes('.') ? name.split('.', 2) : [null, name];
    return lexicon.field(id === null ? type : (typeOf(tree, id ?? '') ?? ''), key ?? '');
  };
  const label = (name: string) => {
    const [id, key] = name.includes('.') ? name.split('.', 2) : [null, name];
    return (
      <>
        {id !== null && id !== main && <span className="mono soft">{id} </span>}
        {fieldOf(name)?.label ?? key}
      </>
    );
  };
  const begin = () => {
    const expected = Object.entries(last?.expect?.[main] ?? {});
    const inputs = Object.keys(last?.with ?? {});
    put({
      inputs: inputs.length > 0 ? inputs : ['title'],
      outcomes: expected.length > 0 ? expected.map(([key]) => `${main}.${key}`) : [`${main}.priority`],
      lines: [
        { in: inputs.length > 0 ? Object.values(last?.with ?? {}) : [null], out: expected.map(([, value]) => value) },
      ],
    });
  };
  if (!variants)
    return (
      <button type="button" className="link mt-3" onClick={begin} disabled={main === ''}>
        + tell it in several lines
      </button>
    );
  const columns = [...variants.inputs, ...variants.outcomes];
  const withColumn = (side: 'inputs' | 'outcomes', name: string): VariantsTree => ({
    ...variants,
    [side]: [...variants[side], name],
    lines: variants.lines.map((line) =>
      side === 'inputs' ? { ...line, in: [...line.in, null] } : { ...line, out: [...line.out, null] },
    ),
  });
  const without = (at: number): VariantsTree => {
    const isInput = at < variants.inputs.length;
    const place = isInput ? at : at - variants.inputs.length;
    const drop = <T,>(list: T[]) => list.filter((_, i) => i !== place);
    return isInput
      ? {
          ...variants,
          inputs: drop(variants.inputs),
          lines: variants.lines.map((line) => ({ ...line, in: drop(line.in) })),
        }
      : {
          ...variants,
          outcomes: drop(variants.outcomes),
          lines: variants.lines.map((line) => ({ ...line, out: drop(line.out) })),
        };
  };
  const given = Object.entries(tree.given ?? {}).flatMap(([of, records]) =>
    records.flatMap((record) =>
      fieldsOf(lexicon.type(of)).map((f) => ({ name: `${record.id}.${f.key}`, label: `${record.id} ${f.label}` })),
    ),
  );
  const settable = fieldsOf(lexicon.type(type)).map((f) => ({ name: f.key, label: f.label }));
  const outcomes = [main, ...Object.values(tree.given ?? {}).flatMap((list) => list.map((r) => r.id))]
    .filter((id, i, all) => id !== '' && all.indexOf(id) === i)
    .flatMap((id) =>
      fieldsOf(lexicon.type(typeOf(tree, id) ?? type)).map((f) => ({
        name: `${id}.${f.key}`,
        label: id === main ? f.label : `${id} ${f.label}`,
      })),
    );
  const actual = (line: number, outcome: string) => {
    const [id, key] = outcome.split('.', 2);
    return result?.lines[line]?.differences.find((d) => d.record === id && d.field === key);
  };
  const differing = (result?.lines ?? []).filter((l) => l.verdict !== 'agrees').length;
  const accept = (only: number | null) => {
    const accepted = { by: person.key, at: new Date().toISOString().slice(0, 19).concat('Z') };
    const steps = tree.steps.map((step, i) => (i === tree.steps.length - 1 ? { ...step, accepted } : step));
    edit({
      ...tree,
      steps,
      variants: {
        ...variants,
        lines: variants.lines.map((line, i) =>
          only === null || only === i
            ? {
                ...line,
                out: variants.outcomes.map((outcome, c) => {
                  const d = actual(i, outcome);
                  return d ? d.actual : line.out[c];
                }),
              }
            : line,
        ),
      },
    });
  };
  const menu = (text: string, entries: { name: string; label: string }[], pick: (name: string) => void) => (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="link">{text}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="menu max-h-[320px] overflow-auto" align="start">
          {entries
            .filter((entry) => !columns.includes(entry.name))
            .map((entry) => (
              <DropdownMenu.Item key={entry.name} className="menu-item" onSelect={() => pick(entry.name)}>
                {entry.label}
              </DropdownMenu.Item>
            ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
  return (
    <section className="mt-4" data-test="variants">
      <h2 className="flex items-baseline gap-3 border-b border-ink pb-1">
        Line by line <span className="soft font-normal">{variants.lines.length} times the last step</span>
        <span className="flex-1" />
        {differing > 0 && (
          <button type="button" className="link" onClick={() => accept(null)}>
            accept what came out in all {differing}
          </button>
        )}
      </h2>
      <div className="overflow-auto" role="region" aria-label="Lines" tabIndex={0}>
        <table className="border-collapse text-[13px]">
          <thead>
            <tr>
              <th aria-label="Line" />
              {columns.map((name, i) => (
                <th
                  key={name}
                  className={`border-b border-line px-2 py-1 text-left font-semibold ${i === variants.inputs.length ? 'border-l-[3px] border-l-ink' : ''}`}
                >
                  <span className="flex items-center gap-1 whitespace-nowrap">
                    {label(name)}
                    {(i < variants.inputs.length ? variants.inputs : variants.outcomes).length > 1 && (
                      <button
                        type="button"
                        className="soft"
                        aria-label={`Drop the column ${name}`}
                        onClick={() => put(without(i))}
                      >
                        ×
                      </button>
                    )}
                  </span>
                </th>
              ))}
              <th aria-label="Verdict" />
            </tr>
          </thead>
          <tbody>
            {variants.lines.map((line, r) => {
              const verdict = result?.lines[r]?.verdict;
              return (
                <tr key={r} className={verdict && verdict !== 'agrees' ? 'bg-redbg' : ''} data-test={`line-${r + 1}`}>
                  <td className="soft border-b border-faint pr-2 text-right tabular-nums">{r + 1}</td>
                  {columns.map((name, c) => {
                    const isInput = c < variants.inputs.length;
                    const value = isInput ? line.in[c] : line.out[c - variants.inputs.length];
                    const d = isInput ? undefined : actual(r, name);
                    return (
                      <td
                        key={name}
                        className={`border-b border-l border-faint ${c === variants.inputs.length ? 'border-l-[3px] border-l-ink' : ''}`}
                      >
                        <Cell
                          label={`Line ${r + 1}, ${name}`}
                          text={writeCell(value, fieldOf(name))}
                          placeholder={isInput ? '–' : 'empty'}
                          onKeep={(text) =>
                            put(
                              pasteBlock(variants, r, c, text, (one, at) =>
                                readCell(one, fieldOf(columns[at] ?? ''), lexicon),
                              ),
                            )
                          }
                        />
                        {d && <b className="block px-2 text-red">came out {lexicon.say(d.actual, fieldOf(name))}</b>}
                      </td>
                    );
                  })}
                  <td className="border-b border-faint px-2 whitespace-nowrap">
                    {verdict === 'agrees' ? (
                      <b className="text-teal">✓</b>
                    ) : verdict === 'differs' ? (
                      <button type="button" className="link" onClick={() => accept(r)}>
                        accept
                      </button>
                    ) : verdict === 'broken' ? (
                      <span className="text-red" title={result?.lines[r]?.broken.join(' ')}>
                        ✕ {result?.lines[r]?.broken[0]}
                      </span>
                    ) : (
                      ''
                    )}
                    {variants.lines.length > 1 && (
                      <button
                        type="button"
                        className="soft ml-2"
                        aria-label={`Remove line ${r + 1}`}
                        onClick={() => put({ ...variants, lines: variants.lines.filter((_, i) => i !== r) })}
                      >
                        ×
                      </button>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      <p className="mt-2 flex gap-4">
        <button
          type="button"
          className="link"
          onClick={() => put({ ...variants, lines: [...variants.lines, variants.lines.at(-1) ?? { in: [], out: [] }] })}
        >
          + line
        </button>
        {menu('+ value', [...settable, ...given], (name) => put(withColumn('inputs', name)))}
        {menu('+ outcome', outcomes, (name) => put(withColumn('outcomes', name)))}
        <button type="button" className="soft" onClick={() => put(null)}>
          tell it once again
        </button>
        <span className="soft">paste a block from a spreadsheet into a cell</span>
      </p>
    </section>
  );
}

function Cell({
  label,
  text,
  placeholder,
  onKeep,
}: {
  label: string;
  text: string;
  placeholder: string;
  onKeep: (text: string) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  return (
    <input
      aria-label={label}
      className="h-8 w-full min-w-[90px] border border-transparent bg-transparent px-2 focus:border-teal focus:bg-sheet"
      placeholder={placeholder}
      value={typed ?? text}
      onChange={(e) => setTyped(e.target.value)}
      onPaste={(e) => {
        const block = e.clipboardData.getData('text');
        if (/[\t\n]/.test(block)) {
          e.preventDefault();
          onKeep(block);
        }
      }}
      onBlur={() => {
        if (typed !== null && typed.trim() !== text) onKeep(typed);
        setTyped(null);
      }}
      onKeyDown={(e) => {
        if (e.key === 'Enter') e.currentTarget.blur();
        if (e.key === 'Escape') setTyped(null);
      }}
    />
  );
}
