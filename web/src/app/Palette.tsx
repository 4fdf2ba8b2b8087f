import { Command } from 'cmdk';
import { Dialog } from 'radix-ui';
import { useNavigate } from 'react-router';
import { sayGuard } from './sayGuard';
import { useMay } from './session';
import { useMaybeWorkshop } from './workshop';

interface Props {
  open: boolean;
  onOpen: (open: boolean) => void;
  onPublish: () => void;
}

/** Ctrl+K: every screen, rule, table and sample, and what can be done. */
export function Palette({ open, onOpen, onPublish }: Props) {
  const navigate = useNavigate();
  const shop = useMaybeWorkshop();
  const publishes = useMay('publisher');
  const item = (value: string, detail: string, act: () => void) => (
    <Command.Item
      key={`${detail} ${value}`}
      value={`${value} ${detail}`}
      className="menu-item"
      onSelect={() => {
        onOpen(false);
        act();
      }}
    >
      <span>{value}</span>
      <span className="soft">{detail}</span>
    </Command.Item>
  );
  return (
    <Dialog.Root open={open} onOpenChange={onOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-over" />
        <Dialog.Content className="dialog p-0!" aria-describedby={undefined}>
          <Dialog.Title className="sr-only">Go anywhere</Dialog.Title>
          <Command>
            <Command.Input
              autoFocus
              placeholder="A rule, a sample, a table, a screen …"
              className="w-full border-b border-line bg-sheet px-4 py-3 text-[15px] outline-none"
            />
            <Command.List className="max-h-[50vh] overflow-auto py-1">
              <Command.Empty className="soft px-4 py-3">Nothing is called that.</Command.Empty>
              {shop?.rules.map(({ tree }) => item(tree.title, 'rule', () => navigate(`/rulebook/${tree.key}`)))}
              {shop?.samples.map((s) =>
                item(`${s.number} ${s.tree.title}`, 'sample', () => {
                  shop.takeInHand(s.part.key);
                  navigate(`/samples/${s.part.key}`);
                }),
              )}
              {shop?.guards.map(({ tree }) =>
                item(sayGuard(tree, shop.lexicon), 'guard', () => navigate(`/guards/${tree.key}`)),
              )}
              {shop?.tables.map(({ tree }) => item(tree.title, 'table', () => navigate(`/tables/${tree.key}`)))}
              {shop &&
                [
                  ['Imports', '/imports'],
                  ['Rulebook', '/rulebook'],
                  ['Guards', '/guards'],
                  ['Mirrors', '/mirrors'],
                  ['Fields', '/fields'],
                  ['Tables', '/tables'],
                  ['Samples', '/samples'],
                  ['Findings', '/findings'],
                  ['Impact', '/impact'],
                  ['Changes that no sample notices', '/findings/notice'],
                  ['Missing samples', '/findings/missing'],
                  ['Who reads and writes which fields', '/findings/uses'],
                  ['Editions', '/editions'],
                  ['Formulas: every function with examples', '/formulas'],
                ].map(([label, to]) => item(label ?? '', 'screen', () => navigate(to ?? '/')))}
              {item('Registers', 'screen', () => navigate('/registers'))}
              {item('Tickets', 'screen', () => navigate('/tickets'))}
              {item('Inbox: messages and calls', 'screen', () => navigate('/inbox'))}
              {item('Runs: what rules did', 'screen', () => navigate('/runs'))}
              {shop && publishes && shop.draft.changes.length > 0 && item('Publish the draft', 'do', onPublish)}
              {shop && item('Replay all samples', 'do', shop.replayAll)}
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
