import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api, Problem } from '../../api/client';
import type { FieldTree, TypeTree } from '../../api/trees';
import { usePart } from '../../app/usePart';
import { useWorkshop } from '../../app/workshop';
import { ProblemNote } from '../../parts/ProblemNote';
import { keyFrom } from '../NewRuleDialog';
import { asType, TYPES } from './shape';

const BUILT_IN = [
  'id',
  'record',
  'was',
  'event',
  'changed',
  'open',
  'item',
  'number',
  'state',
  'assignee',
  'team',
  'tags',
  'requester',
  'created_at',
  'created_by',
  'changed_at',
];

/** A new field: its label and type are enough to begin with. */
export function NewField({ type: key, onDone }: { type: string; onDone: () => void }) {
  const edited = usePart<TypeTree>('types', key);
  const { types } = useWorkshop();
  const navigate = useNavigate();
  const [label, setLabel] = useState('');
  const [type, setType] = useState('text');
  const [to, setTo] = useState(types[0]?.key ?? '');
  if (!edited) return null;
  const { tree } = edited;
  const made = keyFrom(label, [...tree.fields.map((f) => f.key), ...BUILT_IN]);
  const add = () => {
    let field: FieldTree = asType({ key: made, label: label.trim(), type: 'text' }, type, to);
    if (field.to) field = { ...field, to };
    if (tree.kind === 'ticket') field = { ...field, requester: 'hidden' };
    edited.edit({ ...tree, fields: [...tree.fields, field] });
    onDone();
    navigate(`/fields/${key}/${made}`);
  };
  return (
    <section className="border-l border-ink bg-sheet px-4 py-3" data-test="new-field">
      <h2>New field of {tree.title.toLowerCase()}</h2>
      <form
        className="mt-2 flex flex-col gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          add();
        }}
      >
        <input
          className="field"
          placeholder="Label"
          aria-label="Label of the new field"
          // biome-ignore lint/a11y/noAutofocus: it has just been asked for
          autoFocus
          value={label}
          onChange={(e) => setLabel(e.target.value)}
        />
        <span className="soft">
          Its key: <span className="mono">{label.trim() ? made : '…'}</span>
        </span>
        <select
          className="field"
          aria-label="Type of the new field"
          value={type}
          onChange={(e) => setType(e.target.value)}
        >
          {TYPES.filter(([t]) => t !== 'tally').map(([t, words]) => (
            <option key={t} value={t}>
              {words}
            </option>
          ))}
        </select>
        {(type === 'reference' || type === 'references') && (
          <select className="field" aria-label="Refers to" value={to} onChange={(e) => setTo(e.target.value)}>
            {types.map((t) => (
              <option key={t.key} value={t.key}>
                {t.title}
              </option>
            ))}
          </select>
        )}
        {tree.kind === 'ticket' && <p className="soft text-[13px]">Requesters do not see it until you say so.</p>}
        <p className="soft text-[13px]">A tally is made by turning a derived field into one.</p>
        <div className="flex gap-2">
          <button type="submit" className="btn btn-main" disabled={label.trim() === ''}>
            Add field
          </button>
          <button type="button" className="btn" onClick={onDone}>
            Drop
          </button>
        </div>
      </form>
    </section>
  );
}

/** A new type of record with what it cannot do without. */
export function NewType({ onDone }: { onDone: () => void }) {
  const shop = useWorkshop();
  const navigate = useNavigate();
  const [title, setTitle] = useState('');
  const [kind, setKind] = useState<'register' | 'ticket'>('register');
  const [short, setShort] = useState('');
  const [problem, setProblem] = useState<Problem | null>(null);
  const add = async () => {
    const key = keyFrom(
      title,
      shop.types.map((t) => t.key),
    );
    const tree: TypeTree =
      kind === 'register'
        ? {
            key,
            title: title.trim(),
            kind,
            name_field: 'name',
            fields: [{ key: 'name', label: 'Name', type: 'text', required: true }],
          }
        : {
            key,
            title: title.trim(),
            kind,
            short: short.trim().toUpperCase(),
            states: [
              { key: 'new', label: 'New', open: true },
              { key: 'done', label: 'Done', open: false },
            ],
            fields: [{ key: 'title', label: 'Title', type: 'text', required: true, question: 'What is it about?' }],
          };
    try {
      shop.saved('types', await api.addPart('types', tree));
      onDone();
      navigate(`/fields/${key}`);
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onDone()}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-over" />
        <Dialog.Content className="dialog max-w-[460px]" aria-describedby={undefined}>
          <Dialog.Title className="text-[17px] font-bold">New type of record</Dialog.Title>
          <form
            className="mt-3 flex flex-col gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              void add();
            }}
          >
            <input
              className="field"
              placeholder="Title, in the singular"
              aria-label="Title"
              value={title}
              onChange={(e) => setTitle(e.target.value)}
            />
            <label>
              <input type="radio" name="kind" checked={kind === 'register'} onChange={() => setKind('register')} /> a
              register: what tickets refer to
            </label>
            <label>
              <input type="radio" name="kind" checked={kind === 'ticket'} onChange={() => setKind('ticket')} /> a ticket
              type: with states and a history
            </label>
            {kind === 'ticket' && (
              <label>
                numbered{' '}
                <input
                  className="field w-[70px]"
                  aria-label="Short name"
                  placeholder="F"
                  maxLength={5}
                  value={short}
                  onChange={(e) => setShort(e.target.value)}
                />
                -1, -2, …
              </label>
            )}
            <ProblemNote problem={problem} />
            <div className="flex justify-end gap-2">
              <button type="button" className="btn" onClick={onDone}>
                Drop
              </button>
              <button
                type="submit"
                className="btn btn-main"
                disabled={title.trim() === '' || (kind === 'ticket' && short.trim() === '')}
              >
                Add type
              </button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
