import { Command } from 'cmdk';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { resolve, type World } from '../complete';
import { FormulaInput } from '../FormulaInput';
import { FormulaText } from '../FormulaText';
import { pathGroups } from './lines';

/** What a line looks at, in words: Vessel › Superintendent. */
export function sayPath(path: string, world: World): string | null {
  const parts = path.split('.');
  const labels = parts.map((_, i) => resolve(parts.slice(0, i + 1).join('.'), world)?.label);
  return labels.every((label) => label !== undefined) ? labels.join(' › ') : null;
}

interface Props {
  path: string;
  world: World;
  own: string;
  label: string;
  /** What stands there before a field is picked. */
  invite?: string;
  openAtOnce?: boolean;
  onPick: (path: string) => void;
}

/** The field that a line looks at, found by its name; or a formula. */
export function PathPicker({ path, world, own, label, invite, openAtOnce, onPick }: Props) {
  const [open, setOpen] = useState(openAtOnce ?? false);
  const [writing, setWriting] = useState(false);
  const said = sayPath(path, world);
  if (writing)
    return (
      <FormulaInput
        value={path}
        label={label}
        world={world}
        autoFocus
        onKeep={(text) => {
          setWriting(false);
          if (text !== '' && text !== path) onPick(text);
        }}
      />
    );
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="pick max-w-[260px]" aria-label={label} title={path}>
        {said ? (
          <b className="font-[650]">{said}</b>
        ) : path === '' ? (
          <span className={invite ? 'font-semibold text-teal' : 'soft'}>{invite ?? 'a field …'}</span>
        ) : (
          <FormulaText text={path} />
        )}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="menu w-[320px] p-0!" align="start" sideOffset={2}>
          <Command>
            <Command.Input
              className="w-full border-b border-line bg-sheet px-3 py-1.5 outline-none"
              placeholder="Field by name or key"
              aria-label="Field by name or key"
            />
            <Command.List className="max-h-[320px] overflow-auto py-1">
              <Command.Empty className="soft px-3 py-2">No field is called that.</Command.Empty>
              {pathGroups(world, own).map((group) => (
                <Command.Group key={group.title} heading={group.title} className="pick-group">
                  {group.fields.map(({ path: to, field }) => (
                    <Command.Item
                      key={to}
                      value={`${group.title} ${field.label} ${to}`}
                      className="menu-item"
                      onSelect={() => {
                        setOpen(false);
                        onPick(to);
                      }}
                    >
                      <span>{field.label}</span>
                      <span className="soft mono">{to}</span>
                    </Command.Item>
                  ))}
                </Command.Group>
              ))}
              <Command.Item
                value="a formula"
                forceMount
                className="menu-item"
                onSelect={() => {
                  setOpen(false);
                  setWriting(true);
                }}
              >
                a formula …
              </Command.Item>
            </Command.List>
          </Command>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
