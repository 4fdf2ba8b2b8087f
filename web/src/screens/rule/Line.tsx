import { DropdownMenu } from 'radix-ui';
import type { ReactNode } from 'react';
import type { FieldTree } from '../../api/trees';

/** One line of the sheet: what it is, what it says, and what the sample in hand makes of it. */
export function Line({ title, children, margin }: { title: string; children: ReactNode; margin?: ReactNode }) {
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_286px]">
      <div className="flex min-h-[44px] items-start gap-4 border-b border-faint py-2.5 pr-3 pl-4">
        <h2 className="w-[60px] shrink-0 pt-1">{title}</h2>
        <div className="flex min-w-0 flex-1 flex-wrap items-center gap-x-2.5 gap-y-1.5">{children}</div>
      </div>
      <div
        className="border-b border-l border-b-line border-l-ink bg-paper px-3.5 py-2.5 text-[13px]"
        data-test={`margin-${title}`}
      >
        {margin}
      </div>
    </div>
  );
}

export interface MenuEntry {
  label: string;
  detail?: string;
  act: () => void;
}

/** Entries under headings; fields are said with their keys. */
export function PickMenu({ label, groups }: { label: ReactNode; groups: { title?: string; entries: MenuEntry[] }[] }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="link">{label}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="menu max-h-[70vh] overflow-auto" align="start" sideOffset={4}>
          {groups
            .filter((group) => group.entries.length > 0)
            .map((group, i) => (
              <DropdownMenu.Group key={group.title ?? i}>
                {group.title && (
                  <DropdownMenu.Label className="soft px-3 pt-2 text-[12.5px]">{group.title}</DropdownMenu.Label>
                )}
                {group.entries.map((entry) => (
                  <DropdownMenu.Item
                    key={entry.label + (entry.detail ?? '')}
                    className="menu-item"
                    onSelect={entry.act}
                  >
                    <span>{entry.label}</span>
                    {entry.detail && <span className="soft mono">{entry.detail}</span>}
                  </DropdownMenu.Item>
                ))}
              </DropdownMenu.Group>
            ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

export const fieldEntries = (fields: FieldTree[], pick: (key: string) => void): MenuEntry[] =>
  fields.map((field) => ({ label: field.label, detail: field.key, act: () => pick(field.key) }));
