import { DropdownMenu } from 'radix-ui';
import { Link, useParams } from 'react-router';
import { type Cell, fieldsOf, type TableTree } from '../api/trees';
import { useKeys } from '../app/keys';
import { type EditedPart, usePart } from '../app/usePart';
import { useWorkshop } from '../app/workshop';
import { Conflict } from '../parts/Conflict';
import { Grid, type GridColumn } from '../parts/Grid';
import { InPlaceText } from '../parts/InPlaceText';
import { ProblemNote } from '../parts/ProblemNote';
import { RemovePart } from '../parts/RemovePart';
import { useFieldSuggestions } from '../parts/useFieldSuggestions';
import { useWorld } from '../parts/useWorld';

const POLICIES: [string, string][] = [
  ['unique', 'exactly one row may fit'],
  ['first', 'the first row that fits'],
  ['any', 'rows that fit must say the same'],
  ['priority', 'the highest result'],
  ['output order', 'all results, highest first'],
  ['rule order', 'all results, in order of rows'],
  ['collect', 'all results'],
  ['collect sum', 'the sum of the results'],
  ['collect min', 'the least result'],
  ['collect max', 'the greatest result'],
  ['collect count', 'how many rows fit'],
];

function Sheet({ edited }: { edited: EditedPart<TableTree> }) {
  const shop = useWorkshop();
  const { tree, edit, typing, errors } = edited;
  const { lexicon } = shop;
  const world = useWorld(null, tree);
  const suggest = useFieldSuggestions(null);
  useKeys({ 'Ctrl+z': edited.undo, 'Ctrl+Shift+z': edited.redo, 'Ctrl+y': edited.redo });

  // the calls of this table in the step in hand
  const looks = shop.traced?.trace?.passes.flatMap((pass) => pass.rules) ?? [];
  const calls = looks.flatMap((look) =>
    [look.only_if, ...look.look_ups, ...(look.checks ?? []), ...(look.changes ?? [])]
      .flatMap((part) => part?.tables ?? [])
      .filter((call) => call.table === tree.key)
      .map((call) => ({ ...call, rule: look.rule })),
  );
  const callers = shop.rules
    .map((r, i) => ({ ...r, number: i + 1 }))
    .filter((r) => JSON.stringify(r.tree).includes(`${tree.key}(`));
  const all = shop.types.flatMap((type) =>
    fieldsOf(type).map((field) => ({ type, field, name: `${type.key}.${field.key}` })),
  );
  const fieldOf = (name: string | undefined) => all.find((f) => f.name === name)?.field;
  const cells = (side: 'if' | 'then', act: (cells: Cell[]) => Cell[]) =>
    tree.rows.map((row) => ({ ...row, [side]: act(row[side]) }));
  const without = <T,>(list: T[], i: number) => list.filter((_, j) => j !== i);

  const columns: GridColumn[] = [
    ...tree.inputs.map((input, i): GridColumn => {
      const field = fieldOf(input.field);
      return {
        id: `if ${i} ${input.key}`,
        side: 'if',
        head: (
          <>
            <b className="block truncate">{input.label ?? field?.label ?? input.key}</b>
            <span className="soft mono">{input.field ?? input.key}</span>
          </>
        ),
        menu: [
          {
            label: 'Remove this input',
            off: tree.inputs.length === 1,
            act: () => edit({ ...tree, inputs: without(tree.inputs, i), rows: cells('if', (c) => without(c, i)) }),
          },
        ],
        ...suggest(field, true),
      };
    }),
    ...tree.outputs.map((output, i): GridColumn => {
      const field = fieldOf(output.field);
      return {
        id: `then ${i} ${output.key}`,
        side: 'then',
        head: (
          <>
            <b className="block truncate">{output.label ?? field?.label ?? output.key}</b>
            <span className="soft mono">{output.field ?? output.type ?? output.key}</span>
          </>
        ),
        menu: [
          {
            label: 'Remove this output',
            off: tree.outputs.length === 1,
            act: () =>
              edit({
                ...tree,
                outputs: without(tree.outputs, i),
                rows: cells('then', (c) => without(c, i)),
                ...(tree.default ? { default: without(tree.default, i) } : {}),
              }),
          },
        ],
        ...suggest(field, false),
      };
    }),
  ];
  const addColumn = (side: 'inputs' | 'outputs') => (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="link">{side === 'inputs' ? '+ input' : '+ output'}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="menu" align="start">
          {all.map(({ type, field, name }) => (
            <DropdownMenu.Item
              key={name}
              className="menu-item"
              onSelect={() => {
                const taken = [...tree.inputs, ...tree.outputs].map((c) => c.key);
                let key = field.key;
                for (let n = 2; taken.includes(key); n++) key = `${field.key}_${n}`;
                const column = { key, label: field.label, field: name };
                edit(
                  side === 'inputs'
                    ? { ...tree, inputs: [...tree.inputs, column], rows: cells('if', (c) => [...c, '-']) }
                    : {
                        ...tree,
                        outputs: [...tree.outputs, column],
                        rows: cells('then', (c) => [...c, '-']),
                        ...(tree.default ? { default: [...tree.default, '-'] } : {}),
                      },
                );
              }}
            >
              <span>{field.label}</span>
              <span className="soft">{type.title}</span>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
  return (
    <main className="h-full overflow-auto bg-sheet" data-test="table-sheet">
      <div className="border-b border-line bg-paper px-4 pt-2.5 pb-3">
        <div className="flex items-center gap-3 text-[13px]">
          <Link to="/tables" className="soft hover:underline">
            Tables
          </Link>
          <span className="mono soft">
            {tree.key}({tree.inputs.map((i) => i.key).join(', ')})
          </span>
          <span className="flex-1" />
          <span className={edited.status === 'not saved' ? 'font-semibold text-red' : 'soft'} data-test="save-state">
            {edited.status}
          </span>
          <button type="button" className="soft" disabled={!edited.canUndo} onClick={edited.undo}>
            undo <span className="key">Ctrl Z</span>
          </button>
          <button type="button" className="soft" disabled={!edited.canRedo} onClick={edited.redo}>
            redo
          </button>
          <RemovePart kind="tables" part={edited.part} title={tree.title} what="table" to="/tables">
            remove
          </RemovePart>
        </div>
        <h1 className="mt-1">
          <InPlaceText value={tree.title} label="Title of the table" onKeep={(title) => edit({ ...tree, title })} />
        </h1>
        <label className="mt-1 flex items-center gap-2">
          <span className="soft">Hit policy</span>
          <select
            className="field"
            value={tree.hit ?? 'unique'}
            onChange={(e) => edit({ ...tree, hit: e.target.value })}
            aria-label="Hit policy"
          >
            {POLICIES.map(([key, words]) => (
              <option key={key} value={key}>
                {key}: {words}
              </option>
            ))}
          </select>
          <span className="soft ml-4">When no row fits</span>
          {tree.outputs.map((output, i) => (
            <InPlaceText
              key={output.key}
              value={String(tree.default?.[i] ?? '')}
              label={`${output.label ?? output.key} when no row fits`}
              placeholder="nothing"
              className="mono"
              onKeep={(text) => {
                const next = tree.outputs.map((_, j) => (j === i ? text || '-' : (tree.default?.[j] ?? '-')));
                const { default: _, ...rest } = tree;
                edit(next.every((cell) => cell === '-') ? rest : { ...tree, default: next });
              }}
            />
          ))}
        </label>
        <ProblemNote problem={edited.note} />
      </div>
      <Grid
        columns={columns}
        rows={tree.rows}
        lexicon={lexicon}
        onRows={(rows) => edit({ ...tree, rows })}
        onTyping={(rows) => typing(rows === null ? null : { ...tree, rows })}
        wrong={(row, side, index) => errors.get(`/rows/${row}/${side}/${index}`)}
        world={world}
        hit={(row) => calls.some((call) => call.rows.includes(row))}
        covered={
          edited.status === 'saved' ? shop.replay?.coverage.tables.find((t) => t.key === tree.key)?.rows : undefined
        }
        marginHead={
          <span className="text-[13px]">
            <b>This sample</b>{' '}
            <span className="soft">
              {calls.length === 0
                ? 'does not call this table'
                : calls
                    .map((call) =>
                      call.inputs.map((v, i) => lexicon.say(v, fieldOf(tree.inputs[i]?.field))).join(' · '),
                    )
                    .join(' | ')}
            </span>
          </span>
        }
        margin={(row) => {
          const hits = calls.filter((call) => call.rows.includes(row));
          return hits.length === 0 ? (
            <span className="soft">{calls.length > 0 ? '' : ''}</span>
          ) : (
            <span className="flex justify-between">
              <span className="now">→ {lexicon.guess(hits[0]?.value)}</span>
              <span className="text-teal">✓</span>
            </span>
          );
        }}
      />
      <div className="flex items-center gap-4 border-b border-line px-4 py-2.5">
        <button
          type="button"
          className="link"
          onClick={() =>
            edit({
              ...tree,
              rows: [...tree.rows, { if: tree.inputs.map(() => '-'), then: tree.outputs.map(() => 'null') }],
            })
          }
        >
          + row
        </button>
        {addColumn('inputs')}
        {addColumn('outputs')}
        <span className="soft ml-auto">paste a block from a spreadsheet with Ctrl V</span>
      </div>
      <section className="px-4 py-3">
        <h2 className="mb-1">Called by</h2>
        {callers.length === 0 && <p className="text-ochre">Nobody calls this table yet.</p>}
        {callers.map((r) => (
          <p key={r.tree.key}>
            <Link to={`/rulebook/${r.tree.key}`} className="hover:underline">
              {r.number} {r.tree.title}
            </Link>
          </p>
        ))}
      </section>
      <Conflict theirs={edited.conflict} mine={tree} who={(key) => lexicon.person(key)} onSettle={edited.settle} />
    </main>
  );
}

export default function TableSheet() {
  const { key = '' } = useParams();
  const edited = usePart<TableTree>('tables', key);
  if (!edited)
    return (
      <main className="p-10">
        <h1>There is no table “{key}”.</h1>
        <Link to="/tables" className="link mt-2">
          To the tables
        </Link>
      </main>
    );
  return <Sheet key={key} edited={edited} />;
}
