import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api, Problem } from '../api/client';
import { settable } from '../api/trees';
import { useWorkshop } from '../app/workshop';
import { ProblemNote } from '../parts/ProblemNote';

export const keyFrom = (title: string, taken: string[]): string => {
  const plain = title
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '')
    .slice(0, 50);
  const base = /^[a-z]/.test(plain) ? plain : `new_${plain || 'one'}`;
  let key = base;
  for (let n = 2; taken.includes(key); n++) key = `${base}_${n}`;
  return key;
};

export function NewRuleDialog({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
  const shop = useWorkshop();
  const navigate = useNavigate();
  const tickets = shop.types.filter((type) => type.kind === 'ticket');
  const [title, setTitle] = useState('');
  const [type, setType] = useState(tickets[0]?.key ?? '');
  const [field, setField] = useState('assignee');
  const [problem, setProblem] = useState<Problem | null>(null);
  const fields = settable(shop.types.find((t) => t.key === type));
  const make = async () => {
    const key = keyFrom(
      title,
      shop.rules.map((rule) => rule.tree.key),
    );
    const found = fields.find((f) => f.key === field);
    const change = found?.type === 'tags' ? { add: field } : { set: field, when: 'empty' };
    try {
      const answer = await api.addPart('rules', {
        key,
        title: title.trim(),
        on: type,
        starts: ['created'],
        changes: [change],
        rows: [{ if: [], then: ['-'] }],
      });
      shop.saved('rules', answer);
      setTitle('');
      setProblem(null);
      onOpen(false);
      navigate(`/rulebook/${key}`);
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  return (
    <Dialog.Root open={open} onOpenChange={onOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-over" />
        <Dialog.Content className="dialog" aria-describedby={undefined}>
          <Dialog.Title className="mb-3 text-[17px] font-bold">New rule</Dialog.Title>
          <div className="flex flex-col gap-3">
            <label className="flex flex-col gap-1">
              What it does, in a few words
              <input
                className="field h-9"
                value={title}
                onChange={(e) => setTitle(e.target.value)}
                placeholder="Give a late request to the duty manager"
              />
            </label>
            <div className="flex gap-3">
              <label className="flex flex-1 flex-col gap-1">
                For
                <select
                  className="field h-9"
                  value={type}
                  onChange={(e) => {
                    setType(e.target.value);
                    setField('assignee');
                  }}
                >
                  {tickets.map((t) => (
                    <option key={t.key} value={t.key}>
                      {t.title}
                    </option>
                  ))}
                </select>
              </label>
              <label className="flex flex-1 flex-col gap-1">
                It sets
                <select className="field h-9" value={field} onChange={(e) => setField(e.target.value)}>
                  {fields.map((f) => (
                    <option key={f.key} value={f.key}>
                      {f.label}
                    </option>
                  ))}
                </select>
              </label>
            </div>
            <p className="soft">
              It starts when a ticket is created and sets only what is empty; the sheet lets you change all of it.
            </p>
          </div>
          <ProblemNote problem={problem} />
          <div className="mt-4 flex justify-end gap-2">
            <Dialog.Close className="btn">Cancel</Dialog.Close>
            <button type="button" className="btn btn-main" disabled={title.trim() === ''} onClick={() => void make()}>
              Write it
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
