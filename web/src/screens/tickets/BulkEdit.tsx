import { Dialog } from 'radix-ui';
import { useRef, useState } from 'react';
import { api, type Fate, Problem, type TicketRecord } from '../../api/client';
import { type FieldTree, inUse, isLong, type Values } from '../../api/trees';
import type { DeskView } from '../../app/desk';
import type { Lexicon } from '../../app/lexicon';
import { ProblemNote } from '../../parts/ProblemNote';
import { useReferred } from '../../parts/useReferred';
import { ValueEditor } from '../../parts/ValueEditor';

const AT_ONCE = 25;

const FATES: Record<Fate['fate'], [string, string]> = {
  changed: ['◆', 'would change'],
  same: ['◈', 'stays the same'],
  refused: ['✕', 'is refused'],
  stale: ['≠', 'was saved by somebody meanwhile'],
  gone: ['✕', 'is no longer there'],
};

/** The same change to many tickets: what rules and guards make of each is shown before anything is saved. */
export function BulkEdit({
  tickets,
  view,
  lexicon,
  onDone,
}: {
  tickets: TicketRecord[];
  view: DeskView;
  lexicon: Lexicon;
  onDone: (saved: boolean) => void;
}) {
  const types = [...new Set(tickets.map((t) => t.type))];
  const common = types
    .map((key) => inUse(view.lexicon.type(key)).filter((f) => !isLong(f) && f.key !== 'title'))
    .reduce((some, each) => some.filter((f) => each.some((g) => g.key === f.key && g.type === f.type)));
  const [values, setValues] = useState<Values>({});
  const [fates, setFates] = useState<Fate[] | null>(null);
  const [saved, setSaved] = useState(false);
  const [done, setDone] = useState<number | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const stopped = useRef(false);
  const records = useReferred(common);
  const chosen = common.filter((f) => f.key in values);
  const all = async (mode: 'try' | 'save', of: TicketRecord[]) => {
    stopped.current = false;
    setProblem(null);
    setDone(0);
    const found: Fate[] = [];
    try {
      for (let i = 0; i < of.length && !stopped.current; i += AT_ONCE) {
        const part = of.slice(i, i + AT_ONCE).map((t) => ({ id: t.id, version: t.version }));
        found.push(...(await api.changeTickets(part, values, mode)).fates);
        setDone(found.length);
      }
      setFates(found);
      if (mode === 'save') setSaved(true);
    } catch (error) {
      setProblem(Problem.of(error));
    } finally {
      setDone(null);
    }
  };
  const count = (fate: Fate['fate']) => fates?.filter((f) => f.fate === fate).length ?? 0;
  const ready = fates?.filter((f) => f.fate === 'changed').map((f) => f.id) ?? [];
  const byRules = fates?.flatMap((f) => f.changes.filter((c) => c.rule !== null)).length ?? 0;
  return (
    <Dialog.Root open onOpenChange={(open) => !open && done === null && onDone(saved)}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-over" />
        <Dialog.Content className="dialog" aria-describedby={undefined} data-test="bulk">
          <Dialog.Title className="mb-3 text-[17px] font-bold">
            {saved ? 'Changed' : 'Change'} {tickets.length} {tickets.length === 1 ? 'ticket' : 'tickets'}
          </Dialog.Title>
          {!saved && (
            <div className="mb-3 max-w-[520px]">
              {chosen.map((field) => (
                <div key={field.key} className="mb-1 grid grid-cols-[140px_1fr_auto] items-center gap-2">
                  <span>{field.label}</span>
                  {field.type === 'state' && types.length > 1 ? (
                    <span className="soft">States of different types differ; pick tickets of one type.</span>
                  ) : (
                    <ValueEditor
                      field={field}
                      value={values[field.key]}
                      lexicon={lexicon}
                      records={field.to ? (records.get(field.to) ?? []) : []}
                      onChange={(value) => {
                        setValues((old) => ({ ...old, [field.key]: value }));
                        setFates(null);
                      }}
                    />
                  )}
                  <button
                    type="button"
                    className="px-1 text-soft"
                    aria-label={`Leave ${field.label} as it is`}
                    onClick={() => {
                      const { [field.key]: _, ...rest } = values;
                      setValues(rest);
                      setFates(null);
                    }}
                  >
                    ×
                  </button>
                </div>
              ))}
              <select
                className="field"
                aria-label="Field to change"
                value=""
                onChange={(e) => setValues((old) => ({ ...old, [e.target.value]: null }))}
              >
                <option value="">{chosen.length === 0 ? 'Set …' : 'and set …'}</option>
                {common
                  .filter((f) => !(f.key in values))
                  .map((f: FieldTree) => (
                    <option key={f.key} value={f.key}>
                      {f.label}
                    </option>
                  ))}
              </select>
              {chosen.length > 0 && <p className="soft mt-1">An empty value empties the field.</p>}
            </div>
          )}
          {fates && (
            <>
              <p className="mb-2" data-test="bulk-sum">
                {saved ? <b>{count('changed')} saved</b> : <b>{count('changed')} would change</b>}, {count('same')} stay
                the same, {count('refused')} refused
                {count('stale') + count('gone') > 0 && (
                  <>, {count('stale') + count('gone')} changed by others meanwhile</>
                )}
                .{' '}
                {byRules > 0 && (
                  <span className="text-plum">
                    Rules {saved ? 'changed' : 'would change'} {byRules} more {byRules === 1 ? 'value' : 'values'}.
                  </span>
                )}
              </p>
              <div className="max-h-[320px] overflow-auto border-t border-ink">
                <table className="ledger">
                  <tbody>
                    {fates.map((fate) => {
                      const ticket = tickets.find((t) => t.id === fate.id);
                      const [mark, words] = FATES[fate.fate];
                      return (
                        <tr key={fate.id} data-test={`fate-${fate.id}`}>
                          <td className="mono whitespace-nowrap">{fate.id}</td>
                          <td className={fate.fate === 'refused' || fate.fate === 'gone' ? 'text-red' : ''}>
                            {mark} {saved && fate.fate === 'changed' ? 'changed' : words}
                          </td>
                          <td>
                            {fate.reasons.map((reason) => (
                              <p key={reason} className="text-red">
                                {reason}
                              </p>
                            ))}
                            {fate.changes.map((change) => (
                              <span
                                key={`${change.field} ${String(change.after)}`}
                                className={`mr-3 ${change.rule ? 'text-plum' : ''}`}
                              >
                                {lexicon.label(ticket?.type ?? '', change.field).toLowerCase()}{' '}
                                {lexicon.sayChange(
                                  change.before,
                                  change.after,
                                  lexicon.field(ticket?.type ?? '', change.field),
                                )}
                                {change.rule && (
                                  <span className="soft"> by rule {view.rule(change.rule).split(' ')[0]}</span>
                                )}
                              </span>
                            ))}
                          </td>
                        </tr>
                      );
                    })}
                  </tbody>
                </table>
              </div>
            </>
          )}
          <ProblemNote problem={problem} />
          <div className="mt-4 flex items-center justify-end gap-2">
            {done !== null && (
              <>
                <progress value={done} max={tickets.length} /> {done} of {tickets.length}
                <button type="button" className="btn" onClick={() => (stopped.current = true)}>
                  Stop
                </button>
              </>
            )}
            <button type="button" className="btn" disabled={done !== null} onClick={() => onDone(saved)}>
              {saved ? 'Close' : 'Drop'}
            </button>
            {!saved && (
              <button
                type="button"
                className="btn"
                disabled={chosen.length === 0 || done !== null}
                onClick={() => void all('try', tickets)}
              >
                Show what it comes to
              </button>
            )}
            {!saved && fates && (
              <button
                type="button"
                className="btn btn-main"
                disabled={ready.length === 0 || done !== null}
                onClick={() =>
                  void all(
                    'save',
                    tickets.filter((t) => ready.includes(t.id)),
                  )
                }
              >
                Change {ready.length} {ready.length === 1 ? 'ticket' : 'tickets'}
              </button>
            )}
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
