import { useQueryClient } from '@tanstack/react-query';
import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api, Problem } from '../api/client';
import { ProblemNote } from '../parts/ProblemNote';
import { useWorkshop } from './workshop';

export const WHAT: Record<string, string> = {
  rules: 'rule',
  tables: 'table',
  types: 'type',
  teams: 'team',
  people: 'person',
  desk: 'desk',
};

export function PublishDialog({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
  const { draft, replay } = useWorkshop();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [note, setNote] = useState('');
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const next = (draft.edition ?? 0) + 1;
  const off = (replay?.totals.differs ?? 0) + (replay?.totals.broken ?? 0);
  const publish = async () => {
    setBusy(true);
    setProblem(null);
    try {
      const edition = await api.publish(note);
      await client.invalidateQueries();
      setNote('');
      onOpen(false);
      navigate(`/editions/${edition.number}`);
    } catch (error) {
      setProblem(Problem.of(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog.Root open={open} onOpenChange={onOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-over" />
        <Dialog.Content className="dialog" aria-describedby={undefined}>
          <Dialog.Title className="text-[17px] font-bold">Publish edition {next}</Dialog.Title>
          <p className="mt-1">
            From then on the desk runs on it. Tickets that are already there are not touched until their next save.
          </p>
          {off > 0 && (
            <p className="mt-3 border-l-3 border-red bg-redbg px-3 py-2">
              <b>
                {off} {off === 1 ? 'sample does' : 'samples do'} not come out as expected.
              </b>{' '}
              You can publish all the same; look at {off === 1 ? 'it' : 'them'} first.
            </p>
          )}
          <ul className="my-3 border-y border-faint py-2">
            {draft.changes.map((change) => (
              <li key={`${change.kind} ${change.key} ${change.what}`}>
                <span className="soft inline-block w-[120px]">
                  {WHAT[change.kind]} {change.what}
                </span>
                {change.title}
              </li>
            ))}
          </ul>
          <label className="flex flex-col gap-1">
            What changes for the desk, in a sentence or two
            <textarea className="field" rows={3} name="note" value={note} onChange={(e) => setNote(e.target.value)} />
          </label>
          <ProblemNote problem={problem} />
          <div className="mt-4 flex justify-end gap-2">
            <Dialog.Close className="btn">Not yet</Dialog.Close>
            <button type="button" className="btn btn-main" disabled={busy || note.trim() === ''} onClick={publish}>
              Publish edition {next}
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
