import { Dialog, DropdownMenu } from 'radix-ui';
import { useState } from 'react';
import { api, type Fate, Problem } from '../../api/client';
import type { FieldTree, Values } from '../../api/trees';
import type { DeskView } from '../../app/desk';
import type { Lexicon } from '../../app/lexicon';
import { usePerson } from '../../app/session';
import { ProblemNote } from '../../parts/ProblemNote';
import { useReferred } from '../../parts/useReferred';
import { ValueEditor } from '../../parts/ValueEditor';

type HandRule = DeskView['desk']['rules'][number];

const ROLES = ['requester', 'agent', 'builder', 'publisher', 'administrator'];

const AT_ONCE = 25;

/** The questions of a rule, and what became of each ticket. */
function Start({
  rule,
  tickets,
  lexicon,
  onDone,
}: {
  rule: HandRule;
  tickets: string[];
  lexicon: Lexicon;
  onDone: (started: boolean) => void;
}) {
  const ask = (rule.by_hand?.ask ?? []) as unknown as FieldTree[];
  const [inputs, setInputs] = useState<Values>({});
  const [fates, setFates] = useState<Fate[] | null>(null);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const records = useReferred(ask);
  const start = async () => {
    setBusy(true);
    setProblem(null);
    try {
      const found: Fate[] = [];
      for (let i = 0; i < tickets.length; i += AT_ONCE)
        found.push(...(await api.byHand(rule.key, tickets.slice(i, i + AT_ONCE), inputs)).fates);
      if (tickets.length === 1 && found.every((f) => f.fate === 'changed')) onDone(true);
      else setFates(found);
    } catch (error) {
      setProblem(Problem.of(error));
    } finally {
      setBusy(false);
    }
  };
  const wrong = (key: string) => problem?.errors.find((e) => e.pointer === `/inputs/${key}`)?.detail;
  const other = problem?.errors.filter((e) => !ask.some((f) => e.pointer === `/inputs/${f.key}`)) ?? [];
  const count = (fate: Fate['fate']) => fates?.filter((f) => f.fate === fate).length ?? 0;
  return (
    <Dialog.Root open onOpenChange={(open) => !open && !busy && onDone(fates !== null)}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-over" />
        <Dialog.Content className="dialog" aria-describedby={undefined} data-test="by-hand">
          <Dialog.Title className="mb-3 text-[17px] font-bold">{rule.title}</Dialog.Title>
          {fates === null ? (
            <form
              onSubmit={(e) => {
                e.preventDefault();
                void start();
              }}
            >
              {tickets.length > 1 && <p className="mb-2">On each of {tickets.length} tickets.</p>}
              <div className="flex max-w-[480px] flex-col gap-3">
                {ask.map((field, i) => (
                  <div key={field.key}>
                    <p className="mb-1">
                      {field.label} {!field.required && <span className="soft">if you like</span>}
                    </p>
                    <ValueEditor
                      field={field}
                      value={inputs[field.key]}
                      lexicon={lexicon}
                      label={field.label}
                      records={field.to ? (records.get(field.to) ?? []) : []}
                      invalid={wrong(field.key) !== undefined}
                      autoFocus={i === 0}
                      onChange={(value) => {
                        setProblem(null);
                        setInputs((old) => {
                          const next = { ...old, [field.key]: value };
                          if (value === null || value === '') delete next[field.key];
                          return next;
                        });
                      }}
                    />
                    {wrong(field.key) && (
                      <p role="alert" className="text-[13px] text-red">
                        ✕ {wrong(field.key)}
                      </p>
                    )}
                  </div>
                ))}
                {ask.length === 0 && <p>Start it now?</p>}
              </div>
              {other.map((e) => (
                <p key={e.detail} role="alert" className="mt-2 text-red">
                  ✕ {e.detail}
                </p>
              ))}
              <ProblemNote problem={problem && problem.errors.length === 0 ? problem : null} />
              <div className="mt-4 flex justify-end gap-2">
                <Dialog.Close className="btn">Cancel</Dialog.Close>
                <button type="submit" className="btn btn-main" disabled={busy}>
                  Start
                </button>
              </div>
            </form>
          ) : (
            <>
              <p>
                <b>{count('changed')}</b> changed, <b>{count('same')}</b> stayed the same,{' '}
                <b className={count('refused') > 0 ? 'text-red' : ''}>{count('refused')}</b> refused.
              </p>
              <ul className="mt-2 max-h-[40vh] overflow-auto">
                {fates
                  .filter((f) => f.fate !== 'changed' || f.reasons.length > 0)
                  .map((f) => (
                    <li key={f.id} className="border-b border-faint py-1">
                      <span className="mono">{f.id}</span>{' '}
                      {f.reasons.length > 0 ? (
                        <span className="text-red">{f.reasons.join(' ')}</span>
                      ) : (
                        <span className="soft">nothing to do: the rule's condition does not hold</span>
                      )}
                    </li>
                  ))}
              </ul>
              <div className="mt-4 text-right">
                <button type="button" className="btn btn-main" onClick={() => onDone(true)}>
                  Close
                </button>
              </div>
            </>
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** Rules that a person may start on these tickets. */
export function ByHand({
  tickets,
  types,
  view,
  lexicon,
  onDone,
}: {
  tickets: string[];
  types: string[];
  view: DeskView;
  lexicon: Lexicon;
  onDone: () => void;
}) {
  const person = usePerson();
  const [rule, setRule] = useState<HandRule | null>(null);
  const mine = ROLES.indexOf(person.role);
  const rules = view.desk.rules.filter(
    (r) =>
      r.by_hand && types.every((t) => r.by_hand?.on.includes(t)) && mine >= ROLES.indexOf(r.by_hand?.role ?? 'agent'),
  );
  if (rules.length === 0) return null;
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="link" data-test="start-by-hand">
          Start a rule
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content className="menu" align="end" sideOffset={4}>
            {rules.map((r) => (
              <DropdownMenu.Item key={r.key} className="menu-item" onSelect={() => setRule(r)}>
                {r.title}
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {rule && (
        <Start
          rule={rule}
          tickets={tickets}
          lexicon={lexicon}
          onDone={(started) => {
            setRule(null);
            if (started) onDone();
          }}
        />
      )}
    </>
  );
}
