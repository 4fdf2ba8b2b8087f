import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { api, Problem } from '../api/client';
import { ProblemNote } from '../parts/ProblemNote';
import { moment } from './desk';
import { usePerson } from './session';
import { useWorkshop } from './workshop';

const ROLES = ['requester', 'agent', 'builder', 'publisher', 'administrator'];

/** One's own tokens for machines: made, with the secret shown once, and ended. */
export function TokensDialog({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
  const { draft } = useWorkshop();
  const person = usePerson();
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: ['tokens'], queryFn: api.tokens, enabled: open });
  const [name, setName] = useState('');
  const [role, setRole] = useState('builder');
  const [secret, setSecret] = useState<string | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const act = async (doIt: () => Promise<unknown>) => {
    setProblem(null);
    try {
      await doIt();
      await client.invalidateQueries({ queryKey: ['tokens'] });
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  const close = (to: boolean) => {
    setSecret(null);
    onOpen(to);
  };
  return (
    <Dialog.Root open={open} onOpenChange={close}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-over" />
        <Dialog.Content className="dialog" aria-describedby={undefined}>
          <Dialog.Title className="text-[17px] font-bold">Tokens for machines</Dialog.Title>
          <p className="mt-1">
            A build server or a script sends one in the header <span className="mono">Authorization: Bearer …</span> and
            acts for you, with at most the role that you give it here.
          </p>
          <ul className="my-3 border-y border-faint py-1" data-test="tokens">
            {data?.tokens.map((token) => (
              <li key={token.number} className="flex items-center gap-3 py-0.5">
                <b>{token.name}</b>
                <span className="soft">
                  {token.role}, {token.used_at ? `used ${moment(token.used_at, draft.timezone).short}` : 'not used yet'}
                </span>
                <span className="flex-1" />
                <button type="button" className="link" onClick={() => void act(() => api.endToken(token.number))}>
                  End it
                </button>
              </li>
            ))}
            {data?.tokens.length === 0 && <li className="soft">You have none.</li>}
          </ul>
          {secret && (
            <p className="mb-3 border-l-3 border-teal bg-tealbg px-3 py-2" data-test="secret">
              Copy it now; it is not shown again: <span className="mono break-all">{secret}</span>
            </p>
          )}
          <form
            className="flex gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              void act(async () => {
                setSecret((await api.makeToken(name, role)).secret);
                setName('');
              });
            }}
          >
            <input
              className="field flex-1"
              name="token-name"
              aria-label="Which machine uses it"
              placeholder="which machine uses it"
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
            <select className="field" aria-label="Role" value={role} onChange={(e) => setRole(e.target.value)}>
              {ROLES.slice(0, ROLES.indexOf(person.role) + 1).map((one) => (
                <option key={one}>{one}</option>
              ))}
            </select>
            <button type="submit" className="btn btn-main" disabled={name.trim() === ''}>
              Make a token
            </button>
          </form>
          <ProblemNote problem={problem} />
          <div className="mt-4 flex justify-end">
            <Dialog.Close className="btn">Close</Dialog.Close>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
