import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api, Problem } from '../api/client';
import { type MirrorTree, settable, typesOf } from '../api/trees';
import { useDesk } from '../app/desk';
import { useKeys } from '../app/keys';
import { type EditedPart, usePart } from '../app/usePart';
import { useWorkshop } from '../app/workshop';
import { Conflict } from '../parts/Conflict';
import { sayPath } from '../parts/condition/PathPicker';
import { FormulaInput } from '../parts/FormulaInput';
import { FormulaText } from '../parts/FormulaText';
import { OutOfLine } from '../parts/OutOfLine';
import { ProblemNote } from '../parts/ProblemNote';
import { RemovePart } from '../parts/RemovePart';
import { useWorld } from '../parts/useWorld';

const MODES: Record<NonNullable<MirrorTree['mode']>, { short: string; words: string }> = {
  always: { short: 'is always', words: 'always: nobody can set it otherwise' },
  fill_empty: { short: 'starts as', words: 'only while it is empty' },
  on_change: { short: 'changes with', words: 'when the source changes; between changes it can be set freely' },
};

function NewMirror({ onDone }: { onDone: () => void }) {
  const shop = useWorkshop();
  const navigate = useNavigate();
  const [type, setType] = useState(shop.types.find((t) => t.kind === 'ticket')?.key ?? '');
  const [field, setField] = useState('');
  const [from, setFrom] = useState('');
  const [problem, setProblem] = useState<Problem | null>(null);
  const world = useWorld({ key: '', on: type });
  const make = async () => {
    let key = `${field}_follows`;
    for (let n = 2; shop.mirrors.some(({ tree }) => tree.key === key); n++) key = `${field}_follows_${n}`;
    try {
      shop.saved('mirrors', await api.addPart('mirrors', { key, on: type, field, from, mode: 'fill_empty' }));
      navigate(`/mirrors/${key}`);
      onDone();
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  return (
    <div className="mb-3 flex flex-wrap items-center gap-2 border-b border-line pb-3" data-test="new-mirror">
      <select
        className="field"
        aria-label="On"
        value={type}
        onChange={(e) => {
          setType(e.target.value);
          setField('');
        }}
      >
        {shop.types.map((t) => (
          <option key={t.key} value={t.key}>
            {t.title}
          </option>
        ))}
      </select>
      <select className="field" aria-label="Field" value={field} onChange={(e) => setField(e.target.value)}>
        <option value="">field …</option>
        {settable(shop.types.find((t) => t.key === type)).map((f) => (
          <option key={f.key} value={f.key}>
            {f.label}
          </option>
        ))}
      </select>
      <span className="soft">follows</span>
      <FormulaInput value={from} label="Source" placeholder="vessel.superintendent" world={world} onKeep={setFrom} />
      <button type="button" className="btn btn-main" disabled={field === '' || from === ''} onClick={() => void make()}>
        Add the mirror
      </button>
      <button type="button" className="btn" onClick={onDone}>
        Drop
      </button>
      <ProblemNote problem={problem} />
    </div>
  );
}

function Sheet({ edited }: { edited: EditedPart<MirrorTree> }) {
  const shop = useWorkshop();
  const { lexicon, traced } = shop;
  const { tree, edit, typing, errors } = edited;
  const types = typesOf(tree);
  const world = useWorld({ key: '', on: tree.on });
  const field = lexicon.field(types, tree.field);
  const change = (traced?.trace?.changes ?? []).filter((c) => c.field === tree.field).at(-1);
  const about = traced?.trace?.event.type;
  useKeys({ 'Ctrl+z': edited.undo, 'Ctrl+Shift+z': edited.redo, 'Ctrl+y': edited.redo });
  const row = (title: string, content: React.ReactNode) => (
    <div className="grid grid-cols-[104px_minmax(0,1fr)] gap-3 border-b border-faint py-2.5">
      <h2 className="pt-1">{title}</h2>
      <div className="flex min-w-0 flex-wrap items-center gap-2">{content}</div>
    </div>
  );
  return (
    <section className="overflow-auto border-l border-ink bg-sheet px-4 py-3" data-test="mirror-sheet">
      <div className="flex items-center gap-3 text-[13px]">
        <span className="mono">{tree.key}</span>
        <span className="flex-1" />
        <span className={edited.status === 'not saved' ? 'text-red' : 'soft'} data-test="save-state">
          {edited.status}
        </span>
        <button type="button" className="soft" onClick={edited.undo} disabled={!edited.canUndo}>
          undo
        </button>
        <RemovePart
          kind="mirrors"
          part={edited.part}
          title={`${field?.label ?? tree.field}`}
          what="mirror"
          to="/mirrors"
        >
          remove
        </RemovePart>
      </div>
      <p className="mt-1 mb-2 text-[16px] leading-6" data-test="mirror-sentence">
        <b>{field?.label ?? tree.field}</b> of a {types.map((t) => lexicon.type(t)?.title.toLowerCase()).join(' or ')}{' '}
        {MODES[tree.mode ?? 'always'].short} <b>{sayPath(String(tree.from), world) ?? String(tree.from)}</b>.
      </p>
      <ProblemNote problem={edited.note} />
      {row(
        'Source',
        <FormulaInput
          value={String(tree.from)}
          label="Source"
          wide
          mistake={errors.get('/from')}
          world={world}
          onTyping={(text) => typing(text === null ? null : { ...tree, from: text })}
          onKeep={(text) => edit({ ...tree, from: text })}
        />,
      )}
      {row(
        'Follows',
        <select
          className="field max-w-full"
          aria-label="Follows"
          value={tree.mode ?? 'always'}
          onChange={(e) => edit({ ...tree, mode: e.target.value as NonNullable<MirrorTree['mode']> })}
        >
          {Object.entries(MODES).map(([mode, { words }]) => (
            <option key={mode} value={mode}>
              {words}
            </option>
          ))}
        </select>,
      )}
      {row(
        'In hand',
        <span data-test="mirror-margin">
          {about === undefined || !types.includes(about) ? (
            <span className="soft">this step of the sample in hand is about another type</span>
          ) : change ? (
            <span className="now">{lexicon.sayChange(change.before, change.after, field)}</span>
          ) : (
            <span className="soft">does not change in this step</span>
          )}
        </span>,
      )}
      <Conflict theirs={edited.conflict} mine={tree} who={(key) => lexicon.person(key)} onSettle={edited.settle} />
    </section>
  );
}

function MirrorSheet({ mirror }: { mirror: string }) {
  const edited = usePart<MirrorTree>('mirrors', mirror);
  if (!edited)
    return (
      <section className="border-l border-ink bg-sheet p-6">
        <h2>There is no mirror “{mirror}”.</h2>
        <p className="mt-1">It may have been removed.</p>
      </section>
    );
  return <Sheet key={mirror} edited={edited} />;
}

/** Fields kept equal to others, on the same record or over a reference. */
export default function Mirrors() {
  const { mirrors, lexicon } = useWorkshop();
  const desk = useDesk();
  const { key = mirrors[0]?.tree.key } = useParams();
  const [adding, setAdding] = useState(false);
  return (
    <main className="flex h-full flex-col">
      <div className="head">
        <h1>Mirrors</h1>
        <span className="soft">{mirrors.length}</span>
        <button type="button" className="btn ml-auto" onClick={() => setAdding(true)}>
          New mirror
        </button>
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
        <div className="overflow-auto bg-sheet px-4 py-3">
          {adding && <NewMirror onDone={() => setAdding(false)} />}
          {mirrors.length === 0 && (
            <p>No field mirrors another yet. A mirror keeps a field equal to one elsewhere, in the same save.</p>
          )}
          {mirrors.map(({ tree }) => (
            <Link
              key={tree.key}
              to={`/mirrors/${tree.key}`}
              aria-current={tree.key === key ? 'true' : undefined}
              className={`block border-b border-faint px-2 py-2 hover:bg-paper ${tree.key === key ? 'bg-tealbg' : ''}`}
              data-test={`mirror-${tree.key}`}
            >
              <b>{lexicon.label(typesOf(tree), tree.field)}</b> {MODES[tree.mode ?? 'always'].short}{' '}
              <FormulaText text={String(tree.from)} />{' '}
              <span className="soft">
                {typesOf(tree)
                  .map((t) => lexicon.type(t)?.title)
                  .join(', ')}
              </span>
            </Link>
          ))}
        </div>
        {key !== undefined ? <MirrorSheet key={key} mirror={key} /> : <div className="border-l border-ink bg-sheet" />}
      </div>
      {desk && (
        <div className="max-h-[45%] overflow-auto">
          <OutOfLine view={desk} />
        </div>
      )}
    </main>
  );
}
