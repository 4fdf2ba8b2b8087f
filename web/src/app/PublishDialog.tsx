import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api, Problem } from '../api/client';
import { ProblemNote } from '../parts/ProblemNote';
import { usePerson } from './session';
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
  const { draft, stamp, lexicon } = useWorkshop();
  const person = usePerson();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [note, setNote] = useState('');
  const [override, setOverride] = useState('');
  const gate = useQuery({ queryKey: ['gate', stamp], queryFn: api.gate, enabled: open, staleTime: 0 }).data;
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const next = (draft.edition ?? 0) + 1;
  const waits = gate?.approval.needed === true && !gate.approval.by.some((key) => key !== person.key);
  const blocked = gate !== undefined && gate.samples.length + gate.findings.length > 0;
  const publish = async () => {
    setBusy(true);
    setProblem(null);
    try {
      const edition = await api.publish(note, blocked ? override : undefined);
      await client.invalidateQueries();
      setNote('');
      setOverride('');
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
          {blocked && (
            <div className="mt-3 border-l-3 border-red bg-redbg px-3 py-2" data-test="in-the-way">
              <b>This stands in the way:</b>
              <ul className="mt-1 max-h-[140px] overflow-auto">
                {gate.samples.map((sample) => (
                  <li key={sample.key}>
                    {sample.verdict === 'broken' ? '✕' : '≠'}{' '}
                    <Link className="underline" to={`/samples/${sample.key}`} onClick={() => onOpen(false)}>
                      {sample.title}
                    </Link>
                  </li>
                ))}
                {gate.findings.map((finding) => (
                  <li key={finding.id}>
                    ✕{' '}
                    <Link className="underline" to="/findings" onClick={() => onOpen(false)}>
                      {finding.says}
                    </Link>
                  </li>
                ))}
              </ul>
              <label className="mt-2 flex flex-col gap-1">
                Why it is to be published all the same; this stays with the edition
                <input
                  className="field"
                  name="override"
                  value={override}
                  onChange={(e) => setOverride(e.target.value)}
                />
              </label>
            </div>
          )}
          {gate?.approval.needed && (
            <p className="mt-3 flex items-center gap-3 border-l-3 border-ochre bg-paper px-3 py-2" data-test="approval">
              <span className="flex-1">
                {gate.approval.by.length === 0
                  ? 'A second person has to approve this draft.'
                  : `Approved as it is by ${gate.approval.by.map((key) => lexicon.person(key)).join(' and ')}.`}{' '}
                {waits && gate.approval.by.length > 0 && 'Somebody else publishes it, or approves it as well.'}
              </span>
              {!gate.approval.by.includes(person.key) && (
                <button
                  type="button"
                  className="btn"
                  onClick={async () => {
                    await api.approve();
                    await client.invalidateQueries({ queryKey: ['gate'] });
                  }}
                >
                  Approve it
                </button>
              )}
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
            <button
              type="button"
              className="btn btn-main"
              disabled={
                busy || waits || gate === undefined || note.trim() === '' || (blocked && override.trim() === '')
              }
              onClick={publish}
            >
              Publish edition {next}
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
