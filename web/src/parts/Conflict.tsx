import { Dialog } from 'radix-ui';
import type { Part } from '../api/client';
import { TreeDiff } from './TreeDiff';

interface Props {
  theirs: Part | null;
  mine: unknown;
  who: (key: string | null) => string;
  onSettle: (whose: 'mine' | 'theirs') => void;
}

/** Two people edited the same part: both sides, and what to do. Nothing is lost either way. */
export function Conflict({ theirs, mine, who, onSettle }: Props) {
  return (
    <Dialog.Root open={theirs !== null}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-over" />
        <Dialog.Content
          className="dialog"
          aria-describedby={undefined}
          data-test="conflict"
          onEscapeKeyDown={(e) => e.preventDefault()}
          onPointerDownOutside={(e) => e.preventDefault()}
        >
          <Dialog.Title className="text-[17px] font-bold">
            {theirs ? who(theirs.changed_by) : ''} saved this while you were editing
          </Dialog.Title>
          <p className="mt-1 mb-3">
            Nothing was overwritten. Below, from <del>their version</del> to <span className="now">yours</span>. Taking
            theirs keeps yours one undo away.
          </p>
          {theirs && <TreeDiff before={theirs.tree} after={mine} />}
          <div className="mt-4 flex justify-end gap-2">
            <button type="button" className="btn" onClick={() => onSettle('theirs')}>
              Take theirs
            </button>
            <button type="button" className="btn btn-main" onClick={() => onSettle('mine')}>
              Save mine over theirs
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
