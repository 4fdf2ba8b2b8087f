import { AlertDialog } from 'radix-ui';
import { type ReactNode, useState } from 'react';
import { useNavigate } from 'react-router';
import { api, type Kind, type Part, Problem } from '../api/client';
import { useWorkshop } from '../app/workshop';
import { ProblemNote } from './ProblemNote';

interface Props {
  kind: Kind;
  part: Part;
  title: string;
  what: string;
  /** Where to go when it is gone. */
  to: string;
  children: ReactNode;
}

/** Removes a rule, a table or a sample; asks once and names what goes. */
export function RemovePart({ kind, part, title, what, to, children }: Props) {
  const shop = useWorkshop();
  const navigate = useNavigate();
  const [open, setOpen] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const remove = async () => {
    try {
      const answer = await api.deletePart(kind, part.key, part.version);
      setOpen(false);
      navigate(to);
      shop.gone(kind, part.key, answer.changes);
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  return (
    <AlertDialog.Root
      open={open}
      onOpenChange={(next) => {
        setOpen(next);
        setProblem(null);
      }}
    >
      <AlertDialog.Trigger className="link">{children}</AlertDialog.Trigger>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="dialog-over" />
        <AlertDialog.Content className="dialog" aria-describedby={undefined}>
          <AlertDialog.Title className="text-[17px] font-bold">
            Remove the {what} “{title}”?
          </AlertDialog.Title>
          <p className="mt-1">
            It goes from the draft.{' '}
            {kind !== 'samples' && 'The desk keeps running with it until the draft is published.'}
          </p>
          <ProblemNote problem={problem} />
          <div className="mt-4 flex justify-end gap-2">
            <AlertDialog.Cancel className="btn">Keep it</AlertDialog.Cancel>
            <button type="button" className="btn btn-main" onClick={() => void remove()}>
              Remove the {what}
            </button>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
