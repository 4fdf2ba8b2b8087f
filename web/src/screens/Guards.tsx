import { useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { api, Problem } from '../api/client';
import { fieldsOf, type GuardTree, settable, type TypeTree, typesOf } from '../api/trees';
import { useKeys } from '../app/keys';
import { EFFECTS, SHORT, sayGuard, statesOf } from '../app/sayGuard';
import { sayCondition } from '../app/sentence';
import { type EditedPart, usePart } from '../app/usePart';
import { useWorkshop } from '../app/workshop';
import { Conflict } from '../parts/Conflict';
import { ConditionEditor } from '../parts/condition/ConditionEditor';
import { FormulaInput } from '../parts/FormulaInput';
import { InPlaceText } from '../parts/InPlaceText';
import { ProblemNote } from '../parts/ProblemNote';
import { RemovePart } from '../parts/RemovePart';
import { useWorld } from '../parts/useWorld';

const NAMED = ['choice', 'choices', 'two_step_choice', 'reference', 'references'];

/** Field by state, for the guards that ask about nothing but the state. */
function StateTable({ type }: { type: TypeTree }) {
  const { guards, lexicon } = useWorkshop();
  const mine = guards.filter(({ tree }) => typesOf(tree).includes(type.key));
  const shown = mine.flatMap(({ tree }) => {
    const states = statesOf(tree, type);
    return states ? [{ tree, states }] : [];
  });
  const fields = [...new Set(shown.map(({ tree }) => tree.field))];
  if (fields.length === 0) return null;
  return (
    <table className="ledger mb-4 w-auto!" data-test={`states-${type.key}`}>
      <thead>
        <tr>
          <th>{type.title}</th>
          {(type.states ?? []).map((state) => (
            <th key={state.key}>{state.label}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {fields.map((field) => (
          <tr key={field}>
            <td className="font-semibold">{lexicon.label(type.key, field)}</td>
            {(type.states ?? []).map((state) => (
              <td key={state.key}>
                {shown
                  .filter((g) => g.tree.field === field && g.states.includes(state.key))
                  .map(({ tree }) => (
                    <Link
                      key={tree.key}
                      to={`/guards/${tree.key}`}
                      className="mr-2 hover:underline"
                      title={tree.reason}
                    >
                      {SHORT[tree.effect]}
                    </Link>
                  ))}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function NewGuard({ onDone }: { onDone: () => void }) {
  const shop = useWorkshop();
  const navigate = useNavigate();
  const tickets = shop.types.filter((type) => type.kind === 'ticket');
  const [type, setType] = useState(tickets[0]?.key ?? '');
  const [field, setField] = useState('');
  const [effect, setEffect] = useState<GuardTree['effect']>('read_only');
  const [problem, setProblem] = useState<Problem | null>(null);
  const fields = settable(shop.types.find((t) => t.key === type)).filter(
    (f) => effect !== 'choices' || NAMED.includes(f.type),
  );
  const make = async () => {
    const base = `${field}_${effect}`;
    let key = base;
    for (let n = 2; shop.guards.some(({ tree }) => tree.key === key); n++) key = `${base}_${n}`;
    const isReference = fields.find((f) => f.key === field)?.to !== undefined;
    const tree = {
      key,
      on: type,
      field,
      effect,
      ...(effect === 'choices' ? { only: isReference ? 'id != null' : 'key != null' } : {}),
    };
    try {
      shop.saved('guards', await api.addPart('guards', tree));
      navigate(`/guards/${key}`);
      onDone();
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  return (
    <form
      className="mb-3 flex flex-wrap items-center gap-2 border-b border-line pb-3"
      data-test="new-guard"
      onSubmit={(event) => {
        event.preventDefault();
        void make();
      }}
    >
      <select
        className="field"
        aria-label="On"
        value={type}
        onChange={(e) => {
          setType(e.target.value);
          setField('');
        }}
      >
        {tickets.map((t) => (
          <option key={t.key} value={t.key}>
            {t.title}
          </option>
        ))}
      </select>
      <select className="field" aria-label="Field" value={field} onChange={(e) => setField(e.target.value)}>
        <option value="">field …</option>
        {fields.map((f) => (
          <option key={f.key} value={f.key}>
            {f.label}
          </option>
        ))}
      </select>
      <select
        className="field"
        aria-label="Effect"
        value={effect}
        onChange={(e) => setEffect(e.target.value as GuardTree['effect'])}
      >
        {Object.entries(EFFECTS).map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
      <button type="submit" className="btn btn-main" disabled={field === ''}>
        Add the guard
      </button>
      <button type="button" className="btn" onClick={onDone}>
        Drop
      </button>
      <ProblemNote problem={problem} />
    </form>
  );
}

function Sheet({ edited }: { edited: EditedPart<GuardTree> }) {
  const shop = useWorkshop();
  const { lexicon, traced } = shop;
  const { tree, edit, typing, errors } = edited;
  const types = typesOf(tree);
  const world = useWorld({ key: '', on: tree.on });
  const field = lexicon.field(types, tree.field);
  const candidates = field?.to
    ? fieldsOf(lexicon.type(field.to))
    : [
        { key: 'key', label: 'Key', type: 'text' },
        { key: 'label', label: 'Label', type: 'text' },
        { key: 'parent', label: 'First step', type: 'text' },
      ];
  const inForce = (traced?.trace?.guards ?? []).find((g) => g.guard === tree.key);
  const about = traced?.trace?.event.type;
  const tripped = shop.replay?.coverage.guards.find((g) => g.key === tree.key)?.tripped ?? 0;
  useKeys({ 'Ctrl+z': edited.undo, 'Ctrl+Shift+z': edited.redo, 'Ctrl+y': edited.redo });
  const without = (key: keyof GuardTree): GuardTree => {
    const { [key]: _, ...rest } = tree;
    return rest as GuardTree;
  };
  const row = (title: string, content: React.ReactNode) => (
    <div className="grid grid-cols-[104px_minmax(0,1fr)] gap-3 border-b border-faint py-2.5">
      <h2 className="pt-1">{title}</h2>
      <div className="flex min-w-0 flex-wrap items-center gap-2">{content}</div>
    </div>
  );
  return (
    <section className="overflow-auto border-l border-ink bg-sheet px-4 py-3" data-test="guard-sheet">
      <div className="flex items-center gap-3 text-[13px]">
        <span className="mono">{tree.key}</span>
        <span className="flex-1" />
        <span className={edited.status === 'not saved' ? 'text-red' : 'soft'} data-test="save-state">
          {edited.status}
        </span>
        <button type="button" className="soft" onClick={edited.undo} disabled={!edited.canUndo}>
          undo
        </button>
        <RemovePart kind="guards" part={edited.part} title={sayGuard(tree, lexicon)} what="guard" to="/guards">
          remove
        </RemovePart>
      </div>
      <p className="mt-1 mb-2 text-[16px] leading-6" data-test="guard-sentence">
        <b>{field?.label ?? tree.field}</b> of a {types.map((t) => lexicon.type(t)?.title.toLowerCase()).join(' or ')}{' '}
        {EFFECTS[tree.effect]}
        {tree.when === undefined
          ? ', always.'
          : ` while ${sayCondition(tree.when, { ...PLAIN, on: tree.on }, lexicon)}.`}
      </p>
      <ProblemNote problem={edited.note} />
      {row(
        'While',
        <ConditionEditor
          formula={tree.when === undefined ? '' : String(tree.when)}
          label="While"
          world={world}
          own={lexicon.type(types[0] ?? '')?.title ?? 'The record'}
          mistake={errors.get('/when')}
          onTyping={(text) => typing(text === null ? null : text === '' ? without('when') : { ...tree, when: text })}
          onKeep={(text) => edit(text === '' ? without('when') : { ...tree, when: text })}
        />,
      )}
      {tree.effect === 'choices' &&
        row(
          'What remains',
          <>
            <FormulaInput
              value={String(tree.only ?? '')}
              label="What remains"
              wide
              mistake={errors.get('/only')}
              world={{ ...world, fields: candidates }}
              onTyping={(text) => typing(text === null ? null : { ...tree, only: text })}
              onKeep={(text) => edit({ ...tree, only: text })}
            />
            <p className="soft w-full text-[12.5px]">
              {field?.to
                ? `Names are those of a ${lexicon.type(field.to)?.title.toLowerCase()}; the record itself is `
                : 'key, label and parent are those of an option; the record itself is '}
              <span className="mono">record</span>.
            </p>
            <label className="flex items-center gap-2">
              <span className="soft">when another field changes and the value no longer remains</span>
              <select
                className="field"
                value={tree.on_parent_change ?? 'clear'}
                onChange={(e) => edit({ ...tree, on_parent_change: e.target.value as 'clear' | 'keep' | 'refuse' })}
              >
                <option value="clear">empty it</option>
                <option value="keep">keep it</option>
                <option value="refuse">turn the change down</option>
              </select>
            </label>
          </>,
        )}
      {row(
        'Says',
        <InPlaceText
          value={tree.reason ?? ''}
          label="Reason"
          placeholder="Why, in words for whoever meets it"
          className="w-full"
          onKeep={(reason) => edit(reason === '' ? without('reason') : { ...tree, reason })}
        />,
      )}
      {row(
        'In hand',
        <span data-test="guard-margin">
          {about === undefined || !types.includes(about) ? (
            <span className="soft">this step of the sample in hand is about another type</span>
          ) : inForce ? (
            <span>
              in force{inForce.tripped && <b className="now"> and met</b>} <span className="text-teal">✓</span>
            </span>
          ) : (
            <span className="soft">not in force</span>
          )}
        </span>,
      )}
      {row(
        'Proven',
        tripped === 0 ? (
          <span className="hatched px-2 text-ochre">no sample meets it</span>
        ) : (
          <span>
            met {tripped} {tripped === 1 ? 'time' : 'times'} by the samples
          </span>
        ),
      )}
      <Conflict theirs={edited.conflict} mine={tree} who={(key) => lexicon.person(key)} onSettle={edited.settle} />
    </section>
  );
}

const PLAIN = { key: '', title: '', on: '', starts: [], changes: [], rows: [] };

function GuardSheet({ guard }: { guard: string }) {
  const edited = usePart<GuardTree>('guards', guard);
  if (!edited)
    return (
      <section className="border-l border-ink bg-sheet p-6">
        <h2>There is no guard “{guard}”.</h2>
        <p className="mt-1">It may have been removed.</p>
      </section>
    );
  return <Sheet key={guard} edited={edited} />;
}

/** What a field may not, must or need not be while something holds; kept by the server on every way in. */
export default function Guards() {
  const shop = useWorkshop();
  const { lexicon, guards } = shop;
  const { key = guards[0]?.tree.key } = useParams();
  const [search, setSearch] = useSearchParams();
  const [adding, setAdding] = useState(false);
  const words = (search.get('q') ?? '').toLowerCase();
  const text = (tree: GuardTree) =>
    `${tree.key} ${sayGuard(tree, lexicon)} ${tree.reason ?? ''} ${typesOf(tree).join(' ')} ${tree.when ?? ''}`.toLowerCase();
  const shown = guards.filter(({ tree }) => words === '' || text(tree).includes(words));
  const inForce = new Map((shop.traced?.trace?.guards ?? []).map((g) => [g.guard, g]));
  return (
    <main className="flex h-full flex-col">
      <div className="head">
        <h1>Guards</h1>
        <input
          data-filter
          className="field w-[240px]"
          placeholder="Field, type, reason …  /"
          aria-label="Filter guards"
          value={search.get('q') ?? ''}
          onChange={(e) => setSearch(e.target.value === '' ? {} : { q: e.target.value }, { replace: true })}
        />
        <span className="soft">
          {shown.length} of {guards.length}
        </span>
        <button type="button" className="btn ml-auto" onClick={() => setAdding(true)}>
          New guard
        </button>
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
        <div className="overflow-auto bg-sheet px-4 py-3">
          {adding && <NewGuard onDone={() => setAdding(false)} />}
          {shop.types
            .filter((type) => type.kind === 'ticket')
            .map((type) => (
              <StateTable key={type.key} type={type} />
            ))}
          {guards.length === 0 && (
            <p>No field is guarded yet. A guard keeps a field from being changed, needed, shown or chosen freely.</p>
          )}
          {shown.map(({ tree }) => {
            const met = inForce.get(tree.key);
            return (
              <Link
                key={tree.key}
                to={{ pathname: `/guards/${tree.key}`, search: search.toString() }}
                aria-current={tree.key === key ? 'true' : undefined}
                className={`grid grid-cols-[minmax(0,1fr)_20px] gap-2 border-b border-faint px-2 py-2 hover:bg-paper ${tree.key === key ? 'bg-tealbg' : ''}`}
                data-test={`guard-${tree.key}`}
              >
                <span>
                  <b>{lexicon.label(typesOf(tree), tree.field)}</b> {EFFECTS[tree.effect]}{' '}
                  <span className="soft">
                    {typesOf(tree)
                      .map((t) => lexicon.type(t)?.title)
                      .join(', ')}
                  </span>
                  <span className="soft block text-[13px]">
                    {tree.when === undefined
                      ? 'always'
                      : `while ${sayCondition(tree.when, { ...PLAIN, on: tree.on }, lexicon)}`}
                  </span>
                  {tree.reason && <span className="block text-[13px]">“{tree.reason}”</span>}
                </span>
                <span className={met ? 'text-teal' : 'soft'} title={met ? 'in force in the sample in hand' : undefined}>
                  {met ? '✓' : '·'}
                </span>
              </Link>
            );
          })}
        </div>
        {key !== undefined ? <GuardSheet key={key} guard={key} /> : <div className="border-l border-ink bg-sheet" />}
      </div>
    </main>
  );
}
