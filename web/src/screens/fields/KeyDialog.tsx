import { useQueryClient } from '@tanstack/react-query';
import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { api, type Mention, Problem } from '../../api/client';
import { useWorkshop } from '../../app/workshop';
import { ProblemNote } from '../../parts/ProblemNote';

export interface Named {
  type: string;
  field: string;
  option: string | null;
  label: string;
}

/** A new key for a field, an option or a state: first what names it, then the change everywhere at once. */
export function KeyDialog({ of, mentions, onClose }: { of: Named; mentions: Mention[]; onClose: () => void }) {
  const shop = useWorkshop();
  const client = useQueryClient();
  const old = of.option ?? of.field;
  const [to, setTo] = useState(old);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const mine = mentions.filter((m) => m.type === of.type && m.field === of.field && m.option === of.option);
  const titles = new Map<string, string>([
    ...shop.rules.map(({ tree }, i) => [`rules ${tree.key}`, `rule ${i + 1} ${tree.title}`] as const),
    ...shop.tables.map(({ tree }) => [`tables ${tree.key}`, `table ${tree.title}`] as const),
    ...shop.types.map((tree) => [`types ${tree.key}`, `fields of ${tree.title}`] as const),
  ]);
  const parts = [...new Set(mine.map((m) => `${m.kind} ${m.key}`))];
  // where a rule runs on several types, one formula means the field of each
  const places = new Set(mine.map((m) => `${m.kind} ${m.key} ${m.pointer}`));
  const along = [
    ...new Set(
      mentions
        .filter((m) => m.type !== of.type && m.field === of.field && m.option === of.option)
        .filter((m) => places.has(`${m.kind} ${m.key} ${m.pointer}`))
        .map((m) => shop.lexicon.type(m.type)?.title ?? m.type),
    ),
  ];
  const change = async () => {
    setBusy(true);
    try {
      await api.rename({ type: of.type, field: of.field, option: of.option, to: to.trim() });
      await client.invalidateQueries({ queryKey: ['mentions'] });
      shop.reload();
      onClose();
    } catch (error) {
      setProblem(Problem.of(error));
      setBusy(false);
    }
  };
  return (
    <Dialog.Root open onOpenChange={(open) => open || onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-over" />
        <Dialog.Content className="dialog max-w-[560px]" aria-describedby={undefined} data-test="key-dialog">
          <Dialog.Title className="text-[18px] font-bold">Another key for {of.label}</Dialog.Title>
          <p className="mt-2">
            {parts.length === 0 ? (
              'Nothing in the rulebook names it.'
            ) : (
              <>
                It is named {mine.length} {mine.length === 1 ? 'time' : 'times'}, in{' '}
                {parts.map((part) => titles.get(part) ?? part).join('; ')}.
              </>
            )}{' '}
            {along.length > 0 &&
              `The same field of ${along.join(' and ')} goes along, since a rule reads them as one. `}
            Samples follow at once; live records when the draft is published.
          </p>
          <form
            className="mt-3 flex items-center gap-3"
            onSubmit={(event) => {
              event.preventDefault();
              void change();
            }}
          >
            <span className="mono">{old}</span>
            <span aria-hidden>→</span>
            <input
              className="field mono w-[220px]"
              aria-label="New key"
              aria-invalid={problem !== null}
              value={to}
              autoComplete="off"
              spellCheck={false}
              onChange={(event) => {
                setTo(event.target.value);
                setProblem(null);
              }}
            />
            <button type="submit" className="btn btn-main" disabled={busy || to.trim() === old || to.trim() === ''}>
              Change the key everywhere
            </button>
          </form>
          <ProblemNote problem={problem} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
