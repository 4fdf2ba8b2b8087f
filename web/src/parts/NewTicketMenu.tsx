import { DropdownMenu } from 'radix-ui';
import type { DeskView } from '../app/desk';

/** A new ticket of one of the types. */
export function NewTicketMenu({ view, onPick }: { view: DeskView; onPick: (type: string) => void }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="btn ml-auto">New</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="menu" align="end">
          {view.types
            .filter((t) => t.kind === 'ticket')
            .map((t) => (
              <DropdownMenu.Item key={t.key} className="menu-item" onSelect={() => onPick(t.key)}>
                {t.title}
              </DropdownMenu.Item>
            ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
