import { Dialog } from 'radix-ui';

const KEYS: [string, string][] = [
  ['Ctrl K', 'go anywhere'],
  ['[  ]', 'previous and next sample in hand'],
  ['T', 'open and close the trace'],
  ['R', 'replay all samples'],
  ['/', 'filter the list'],
  ['G then R, S, V, T, F, B, E', 'rulebook, samples, findings, tickets, fields, tables, editions'],
  ['G then I, D, M, P, A', 'registers, guards, mirrors, reports, ask'],
  ['G then N, L', 'inbox, runs'],
  ['Ctrl S', 'save the edits of a ticket'],
  ['Space, O', 'pick a ticket of the list, open it'],
  ['arrows, Tab, Enter', 'move in a grid'],
  ['Enter, E or F2', 'edit a cell; typing replaces it'],
  ['Esc', 'leave the cell as it was'],
  ['Delete', 'empty a cell or a block'],
  ['Shift arrows', 'pick a block; Ctrl C and Ctrl V copy and paste it'],
  ['Alt ↑ ↓', 'move the row, or the rule in the rulebook'],
  ['Ctrl Enter', 'new row below'],
  ['Ctrl Z, Ctrl Shift Z', 'undo and redo'],
];

export function ShortcutsDialog({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-over" />
        <Dialog.Content className="dialog" aria-describedby={undefined}>
          <Dialog.Title className="mb-3 text-[17px] font-bold">Keys</Dialog.Title>
          <table className="ledger">
            <tbody>
              {KEYS.map(([key, what]) => (
                <tr key={key}>
                  <td className="w-[220px]">
                    <span className="key">{key}</span>
                  </td>
                  <td>{what}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
