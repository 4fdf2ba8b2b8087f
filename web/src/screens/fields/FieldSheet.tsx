import { Dialog } from 'radix-ui';
import { type ReactNode, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api, type ConvertedField, Problem } from '../../api/client';
import type { FieldTree, OptionTree, TypeTree } from '../../api/trees';
import { useDesk } from '../../app/desk';
import { useKeys } from '../../app/keys';
import { type EditedPart, usePart } from '../../app/usePart';
import { useWorkshop } from '../../app/workshop';
import { Conflict } from '../../parts/Conflict';
import { FormulaInput } from '../../parts/FormulaInput';
import { ProblemNote } from '../../parts/ProblemNote';
import { useWorld } from '../../parts/useWorld';
import { Arrows } from './Arrows';
import type { Named } from './KeyDialog';
import { Label, Options } from './Options';
import { asType, TYPES, takes, withSetting } from './shape';
import { Users, useUsers } from './users';

const MEASURES = ['count', 'sum', 'average', 'min', 'max', 'distinct'];

/** What the live records would lose, told before it is done. */
function Losses({ told, onDo, onDrop }: { told: ConvertedField[]; onDo: () => void; onDrop: () => void }) {
  const lost = told.reduce((sum, f) => sum + f.lost, 0);
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onDrop()}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-over" />
        <Dialog.Content className="dialog max-w-[640px]" aria-describedby={undefined} data-test="losses">
          <Dialog.Title className="text-[17px] font-bold">
            {lost === 0 ? 'Every value can be kept' : `${lost} ${lost === 1 ? 'value' : 'values'} would be lost`}
          </Dialog.Title>
          {told.map((field) => (
            <div key={field.field} className="mt-2">
              <p>
                <b>{field.label}</b>: {field.values} {field.values === 1 ? 'record holds' : 'records hold'} a value, of
                which {field.values - field.lost} can be converted and {field.lost} would be emptied.
              </p>
              {field.examples.length > 0 && (
                <table className="ledger mt-1">
                  <tbody>
                    {field.examples.map((example) => (
                      <tr key={example.record}>
                        <td className="mono">{example.record}</td>
                        <td>{example.value}</td>
                        <td className="soft">{example.why}</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              )}
            </div>
          ))}
          <p className="soft mt-3">
            The records follow when the draft is published; what is emptied stays in their history.
          </p>
          <div className="mt-4 flex justify-end gap-2">
            <button type="button" className="btn" onClick={onDrop}>
              Leave it as it is
            </button>
            <button type="button" className="btn btn-main" onClick={onDo}>
              Change it
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Row({ label, children, error }: { label: string; children: ReactNode; error?: string | undefined }) {
  return (
    <div className="grid min-h-9 grid-cols-[92px_minmax(0,1fr)] items-start gap-2 border-b border-faint py-1.5">
      <span className="soft pt-1 text-[13px]">{label}</span>
      <div>
        {children}
        {error && (
          <p role="alert" className="text-[13px] text-red">
            ✕ {error}
          </p>
        )}
      </div>
    </div>
  );
}

function Sheet({
  edited,
  field: key,
  onRename,
}: {
  edited: EditedPart<TypeTree>;
  field: string;
  onRename: (named: Named) => void;
}) {
  const { types, lexicon } = useWorkshop();
  const desk = useDesk();
  const navigate = useNavigate();
  const { users, ofOption, isKnown } = useUsers();
  const { tree, errors } = edited;
  const at = tree.fields.findIndex((f) => f.key === key);
  const field = tree.fields[at];
  const [told, setTold] = useState<{ fields: ConvertedField[]; next: TypeTree } | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [asking, setAsking] = useState(false);
  const world = useWorld({ key: '', on: tree.key });
  const counted = useWorld({ key: '', on: field?.of ?? tree.key });
  useKeys({ 'Ctrl+z': edited.undo, 'Ctrl+Shift+z': edited.redo });
  if (!field)
    return (
      <section className="border-l border-ink bg-sheet p-6">
        <h2>
          There is no field “{key}” on {tree.title.toLowerCase()}.
        </h2>
      </section>
    );
  const liveType = desk?.types.find((t) => t.key === tree.key);
  const live = liveType?.fields.find((f) => f.key === key);
  const liveOptions = new Set((live?.options ?? []).flatMap((o) => [o.key, ...(o.children ?? []).map((c) => c.key)]));
  const put = (next: FieldTree): TypeTree => ({ ...tree, fields: tree.fields.map((f, i) => (i === at ? next : f)) });
  const keep = (next: FieldTree) => edited.edit(put(next));
  const set = (name: keyof FieldTree, value: unknown) => keep(withSetting(field, name, value));
  const wrong = (name: string) => errors.get(`/fields/${at}/${name}`)?.detail;
  /** What may cost records their values is told first. */
  const change = async (next: FieldTree) => {
    const whole = put(next);
    setProblem(null);
    if (!live) return edited.edit(whole);
    try {
      const { fields } = await api.conversion(tree.key, whole);
      const mine = fields.filter((f) => f.field === key);
      if (mine.some((f) => f.values > 0)) setTold({ fields: mine, next: whole });
      else edited.edit(whole);
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  const number = (name: 'min' | 'max' | 'decimals') => (
    <label className="mr-3 inline-flex items-center gap-1">
      <span className="soft">{name === 'min' ? 'least' : name === 'max' ? 'most' : 'decimals'}</span>
      <NumberBox value={field[name]} label={name} onKeep={(value) => set(name, value)} />
    </label>
  );
  const readers = users(tree.key, key, false);
  const writers = users(tree.key, key, true);
  const isRetired = field.active === false;
  const computed = field.type === 'derived' || field.type === 'tally';
  const registers = types.filter((t) => t.key !== '');
  const allOptions = (field.options ?? []).flatMap((o) => [o.key, ...(o.children ?? []).map((c) => c.key)]);
  const lists = types.filter((t) => t.fields.some((f) => f.to === tree.key));
  const countedType = types.find((t) => t.key === field.of);
  return (
    <section className="overflow-auto border-l border-ink bg-sheet px-4 py-3" data-test="field-sheet">
      <div className="mb-2 flex items-center gap-2">
        <Link to={`/fields/${tree.key}`} className="link">
          {tree.title}
        </Link>
        <span className="soft">›</span>
        <b>{field.label}</b>
        <span className="flex-1" />
        <span className="soft text-[13px]" data-test="field-status">
          {edited.status}
        </span>
        <Arrows list={tree.fields} at={at} what="the field" onMove={(fields) => edited.edit({ ...tree, fields })} />
      </div>
      <ProblemNote problem={problem ?? edited.note} />
      <Row label="Label" error={wrong('label')}>
        <Label wide value={field.label} label="Label" onKeep={(value) => value && set('label', value)} />
      </Row>
      <Row label="Key">
        <span className="mono">{field.key}</span>{' '}
        <button
          type="button"
          className="link text-[13px]"
          onClick={() => onRename({ type: tree.key, field: key, option: null, label: field.label })}
        >
          Another key …
        </button>
      </Row>
      <Row label="Type" error={wrong('type')}>
        <select
          className="field w-full"
          aria-label="Type"
          value={field.type}
          onChange={(e) => void change(asType(field, e.target.value, registers[0]?.key ?? ''))}
        >
          {TYPES.filter(([type]) => type !== 'tally' || lists.length > 0 || field.type === 'tally').map(
            ([type, words]) => (
              <option key={type} value={type}>
                {words}
              </option>
            ),
          )}
        </select>
      </Row>
      {takes(field.type, 'to') && (
        <Row label="Refers to" error={wrong('to')}>
          <select
            className="field w-full"
            aria-label="Refers to"
            value={field.to ?? ''}
            onChange={(e) => void change({ ...field, to: e.target.value })}
          >
            {types.map((t) => (
              <option key={t.key} value={t.key}>
                {t.title}
              </option>
            ))}
          </select>
        </Row>
      )}
      {takes(field.type, 'options') && (
        <Row label="Options" error={wrong('options')}>
          <Options
            options={field.options ?? []}
            steps={field.type === 'two_step_choice'}
            taken={allOptions}
            usersOf={(option) => (isKnown ? ofOption(tree.key, key, option) : null)}
            live={liveOptions}
            onOptions={(options: OptionTree[]) => keep({ ...field, options })}
            onRename={(option, label) =>
              onRename({ type: tree.key, field: key, option, label: `${field.label}: ${label}` })
            }
          />
        </Row>
      )}
      {takes(field.type, 'min') && (
        <Row label="Bounds" error={wrong('min') ?? wrong('max') ?? wrong('decimals')}>
          {number('min')}
          {number('max')}
          {number('decimals')}
        </Row>
      )}
      {takes(field.type, 'bands') && (
        <Row label="Band limits" error={wrong('bands')}>
          <Label
            value={(field.bands ?? []).join(', ')}
            label="Band limits"
            onKeep={(text) =>
              set(
                'bands',
                text
                  .split(/[\s,;]+/)
                  .map(Number)
                  .filter((n) => Number.isFinite(n) && n > 0),
              )
            }
          />
          <span className="soft ml-2 text-[13px]">ticks on the bar, such as 40, 80</span>
        </Row>
      )}
      {takes(field.type, 'pattern') && (
        <Row label="Form" error={wrong('pattern')}>
          <Label wide value={field.pattern ?? ''} label="Form" onKeep={(value) => set('pattern', value)} />
          <span className="soft text-[13px]">a regular expression that the whole text must fit</span>
        </Row>
      )}
      {field.type === 'derived' && (
        <Row label="Always" error={wrong('formula')}>
          <FormulaInput
            value={String(field.formula ?? '')}
            label="Formula"
            world={world}
            mistake={errors.get(`/fields/${at}/formula`)}
            onKeep={(text) => keep({ ...field, formula: text || 'null' })}
          />
        </Row>
      )}
      {field.type === 'tally' && (
        <>
          <Row
            label="Counts"
            error={wrong('of') ?? wrong('via') ?? wrong('measure') ?? errors.get(`/fields/${at}`)?.detail}
          >
            <span className="flex flex-wrap gap-1">
              <select
                className="field"
                aria-label="Measure"
                value={field.measure ?? ''}
                onChange={(e) =>
                  keep(
                    e.target.value === 'count'
                      ? withSetting({ ...field, measure: 'count' }, 'field', '')
                      : { ...field, measure: e.target.value },
                  )
                }
              >
                <option value="">measure …</option>
                {MEASURES.map((m) => (
                  <option key={m}>{m}</option>
                ))}
              </select>
              {field.measure && field.measure !== 'count' && (
                <select
                  className="field"
                  aria-label="Measured field"
                  value={field.field ?? ''}
                  onChange={(e) => set('field', e.target.value)}
                >
                  <option value="">of …</option>
                  {(countedType?.fields ?? []).map((f) => (
                    <option key={f.key} value={f.key}>
                      {f.label}
                    </option>
                  ))}
                </select>
              )}
              <select
                className="field"
                aria-label="Records"
                value={field.of && field.via ? `${field.of} ${field.via}` : ''}
                onChange={(e) => {
                  const [of, via] = e.target.value.split(' ');
                  keep({ ...field, ...(of && via ? { of, via } : {}) });
                }}
              >
                <option value="">records …</option>
                {lists.flatMap((t) =>
                  t.fields
                    .filter((f) => f.to === tree.key)
                    .map((f) => (
                      <option key={`${t.key} ${f.key}`} value={`${t.key} ${f.key}`}>
                        {t.title} by {f.label.toLowerCase()}
                      </option>
                    )),
                )}
              </select>
            </span>
          </Row>
          <Row label="Only where" error={wrong('where')}>
            <FormulaInput
              value={String(field.where ?? '')}
              label="Only where"
              placeholder="all"
              world={counted}
              mistake={errors.get(`/fields/${at}/where`)}
              onKeep={(text) => set('where', text)}
            />
          </Row>
          {tree.fields.some((f) => f.type === 'reference' && f.to === tree.key) && (
            <Row label="Also below" error={wrong('tree')}>
              <select
                className="field"
                aria-label="Also below"
                value={field.include === 'descendants' ? (field.tree ?? '') : ''}
                onChange={(e) =>
                  keep(
                    e.target.value
                      ? { ...field, include: 'descendants', tree: e.target.value }
                      : withSetting(withSetting(field, 'tree', ''), 'include', ''),
                  )
                }
              >
                <option value="">only what refers to it directly</option>
                {tree.fields
                  .filter((f) => f.type === 'reference' && f.to === tree.key)
                  .map((f) => (
                    <option key={f.key} value={f.key}>
                      all that lies below it by {f.label.toLowerCase()}
                    </option>
                  ))}
              </select>
            </Row>
          )}
        </>
      )}
      {!computed && (
        <>
          <Row label="Required">
            <label className="flex items-center gap-2 pt-1">
              <input
                type="checkbox"
                checked={field.required ?? false}
                onChange={(e) => set('required', e.target.checked)}
              />{' '}
              a record is not saved without it
            </label>
          </Row>
          <Row label="Starts as" error={wrong('default')}>
            <FormulaInput
              value={String(field.default ?? '')}
              label="Default"
              placeholder="empty"
              world={world}
              mistake={errors.get(`/fields/${at}/default`)}
              onKeep={(text) => set('default', text)}
            />
          </Row>
        </>
      )}
      {tree.kind === 'ticket' && (
        <>
          <Row label="Requesters">
            <select
              className="field w-full"
              aria-label="What requesters see"
              value={field.requester ?? 'shown'}
              onChange={(e) => set('requester', e.target.value === 'shown' ? '' : e.target.value)}
            >
              <option value="shown">{computed ? 'see it' : 'see it, and set it when they are asked'}</option>
              {!computed && <option value="read_only">see it and cannot set it</option>}
              <option value="hidden">never see it</option>
            </select>
          </Row>
          {!computed && (field.requester ?? 'shown') === 'shown' && (
            <Row label="Question">
              <Label wide value={field.question ?? ''} label="Question" onKeep={(value) => set('question', value)} />
              <span className="soft text-[13px]">
                {field.question
                  ? ''
                  : field.required
                    ? 'Without one, the form asks by the label.'
                    : 'Without one, the form leaves it out.'}
              </span>
            </Row>
          )}
        </>
      )}
      <h2 className="mt-4">Read by, in running order</h2>
      <p data-test="read-by">
        {readers.length === 0 ? (
          <span className="soft">nothing</span>
        ) : (
          readers.map((u) => <UserLine key={u.to} to={u.to} label={u.label} />)
        )}
      </p>
      <h2 className="mt-2">Written by</h2>
      <p data-test="written-by">
        {writers.length === 0 ? (
          <span className="soft">people only</span>
        ) : (
          writers.map((u) => <UserLine key={u.to} to={u.to} label={u.label} />)
        )}
      </p>
      <div className="mt-4 border-t border-line pt-3">
        {isRetired ? (
          <p>
            It is retired: records keep what they hold and take no new values.{' '}
            <button type="button" className="link" onClick={() => set('active', '')}>
              Take it back into use
            </button>
          </p>
        ) : !live ? (
          <button
            type="button"
            className="btn"
            onClick={() => {
              edited.edit({ ...tree, fields: tree.fields.filter((f) => f.key !== key) });
              navigate(`/fields/${tree.key}`);
            }}
          >
            Remove {field.label}, which no record holds yet
          </button>
        ) : asking ? (
          <div data-test="retire">
            <p>
              {readers.length + writers.length === 0 ? (
                'Nothing in the rulebook names it.'
              ) : (
                <>
                  {readers.length > 0 && (
                    <>
                      It is still read by <Users list={readers} />.{' '}
                    </>
                  )}
                  {writers.length > 0 && (
                    <>
                      It is still written by <Users list={writers} />, whose values it would no longer take.
                    </>
                  )}
                </>
              )}{' '}
              Records keep what they hold.
            </p>
            <span className="mt-2 flex gap-2">
              <button
                type="button"
                className="btn"
                onClick={() => {
                  setAsking(false);
                  keep({ ...field, active: false });
                }}
              >
                Retire {field.label}
              </button>
              <button type="button" className="btn" onClick={() => setAsking(false)}>
                Keep it
              </button>
            </span>
          </div>
        ) : (
          <button type="button" className="btn" disabled={!isKnown} onClick={() => setAsking(true)}>
            Retire …
          </button>
        )}
      </div>
      {told && (
        <Losses
          told={told.fields}
          onDrop={() => setTold(null)}
          onDo={() => {
            edited.edit(told.next);
            setTold(null);
          }}
        />
      )}
      <Conflict theirs={edited.conflict} mine={tree} who={(who) => lexicon.person(who)} onSettle={edited.settle} />
    </section>
  );
}

function UserLine({ to, label }: { to: string; label: string }) {
  return (
    <Link to={to} className="block leading-6 hover:underline">
      {label}
    </Link>
  );
}

function NumberBox({
  value,
  label,
  onKeep,
}: {
  value: number | undefined;
  label: string;
  onKeep: (value: number | undefined) => void;
}) {
  const [text, setText] = useState(value === undefined ? '' : String(value));
  const number = Number(text.replace(',', '.'));
  const isWrong = text.trim() !== '' && !Number.isFinite(number);
  return (
    <input
      className="field w-[62px]"
      aria-label={label}
      aria-invalid={isWrong}
      inputMode="decimal"
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => !isWrong && onKeep(text.trim() === '' ? undefined : number)}
      onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
    />
  );
}

export function FieldSheet({
  type,
  field,
  onRename,
}: {
  type: string;
  field: string;
  onRename: (named: Named) => void;
}) {
  const edited = usePart<TypeTree>('types', type);
  if (!edited) return <section className="border-l border-ink bg-sheet p-6">There is no type “{type}”.</section>;
  return <Sheet edited={edited} field={field} onRename={onRename} />;
}
