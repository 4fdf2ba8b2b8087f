import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { api, Problem, type TicketRecord } from '../../api/client';
import type { FieldTree, Values } from '../../api/trees';
import type { Lexicon } from '../../app/lexicon';
import { useChoices, useGuards } from '../../parts/useGuards';
import { useReferred } from '../../parts/useReferred';
import { ValueEditor } from '../../parts/ValueEditor';

/** Why a field of a ticket cannot be set at all, whatever the ticket. */
export function fixedWhy(field: FieldTree): string | null {
  if (field.type === 'derived' || field.type === 'tally') return 'It follows from other fields.';
  if (field.fixed) return 'The desk keeps it itself.';
  if (field.active === false) return 'It is retired.';
  return null;
}

/** A cell of the list being edited: held to the guards of its ticket as on its own page, saved at once. */
export function CellEdit({
  ticket,
  field,
  lexicon,
  onSaved,
  onClose,
}: {
  ticket: TicketRecord;
  field: FieldTree;
  lexicon: Lexicon;
  onSaved: (ticket: TicketRecord, before: unknown) => void;
  onClose: () => void;
}) {
  const before = ticket.values[field.key] ?? null;
  const [value, setValue] = useState<unknown>(before);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const isChanged = JSON.stringify(value ?? null) !== JSON.stringify(before);
  const edits: Values = isChanged ? { [field.key]: value } : {};
  const { data: run } = useQuery({
    queryKey: ['dry run', ticket.id, ticket.type, ticket.version, JSON.stringify(edits)],
    queryFn: () => api.dryRun(ticket.id, ticket.type, edits),
    enabled: isChanged,
    placeholderData: (old) => old,
    gcTime: 0,
  });
  const guards = useGuards(ticket.id, ticket.type, ticket.version, isChanged ? run : undefined);
  const records = useReferred([field]);
  const choices = useChoices(ticket.id, ticket.type, {}, field, guards.limited(field.key));
  const why =
    fixedWhy(field) ??
    guards.locked(field.key) ??
    (guards.hidden(field.key) ? 'A guard keeps it out of use here.' : null);
  const save = async () => {
    if (!isChanged) return onClose();
    setBusy(true);
    try {
      const saved = await api.changeTicket(ticket.id, edits, ticket.version);
      onSaved(saved.ticket, before);
    } catch (error) {
      setProblem(Problem.of(error));
    } finally {
      setBusy(false);
    }
  };
  const rules = isChanged && run ? run.changes.filter((c) => c.rule !== null) : [];
  const refused = isChanged ? (run?.refused ?? []) : [];
  return (
    <div
      className="w-[300px] p-2 text-[13px]"
      data-test="cell-edit"
      onKeyDown={(e) => {
        if (e.key === 'Enter' && !e.shiftKey && field.type !== 'rich_text') {
          e.preventDefault();
          void save();
        }
      }}
    >
      <p className="mb-1">
        <b>{field.label}</b> of <span className="mono">{ticket.id}</span>
      </p>
      {!guards.isKnown || !choices.isKnown ? (
        <span className="soft">…</span>
      ) : why !== null ? (
        <p data-test="cell-locked">
          {lexicon.say(before, field)}
          <span className="soft mt-1 block">{why}</span>
        </p>
      ) : (
        <>
          <ValueEditor
            field={choices.field}
            value={value}
            lexicon={lexicon}
            records={choices.records ?? (field.to ? (records.get(field.to) ?? []) : [])}
            autoFocus
            invalid={refused.length > 0}
            onChange={setValue}
          />
          {rules.length > 0 && (
            <p className="mt-1 bg-plumbg px-1.5 text-plum">
              {rules
                .map(
                  (c) =>
                    `${lexicon.label(ticket.type, c.field).toLowerCase()} ${lexicon.sayChange(c.before, c.after, lexicon.field(ticket.type, c.field))}`,
                )
                .join(', ')}
            </p>
          )}
          {refused.map((r) => (
            <p key={r.reason} role="alert" className="mt-1 text-red">
              ✕ {r.reason}
            </p>
          ))}
          {problem && (
            <p role="alert" className="mt-1 text-red">
              ✕ {problem.errors.map((e) => e.detail).join(' ') || `${problem.message} ${problem.detail}`}
            </p>
          )}
          <div className="mt-2 flex gap-2">
            <button type="button" className="btn btn-main" disabled={busy || !isChanged} onClick={() => void save()}>
              Save
            </button>
            <button type="button" className="btn" onClick={onClose}>
              Drop
            </button>
          </div>
        </>
      )}
    </div>
  );
}
