import { DropdownMenu } from 'radix-ui';
import { type ReactNode, useEffect, useRef, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api, type Difference, Problem } from '../api/client';
import {
  DONE_WORDS,
  EXPECT_WORDS,
  type ExpectTree,
  type FieldTree,
  fieldsOf,
  type RuleTree,
  type SampleTree,
  type StepTree,
  startKind,
  typesOf,
  type Values,
} from '../api/trees';
import { moment } from '../app/desk';
import { useKeys } from '../app/keys';
import type { Lexicon } from '../app/lexicon';
import { usePerson } from '../app/session';
import { type EditedPart, usePart } from '../app/usePart';
import { type NumberedSample, PROVES, useWorkshop } from '../app/workshop';
import { Conflict } from '../parts/Conflict';
import { InPlaceText } from '../parts/InPlaceText';
import { ProblemNote } from '../parts/ProblemNote';
import { RemovePart } from '../parts/RemovePart';
import { TraceView } from '../parts/TraceView';
import { ValueEditor } from '../parts/ValueEditor';
import { Verdict } from '../parts/Verdict';
import { WhyValue } from '../parts/WhyValue';
import { accept, toExpect } from './accept';
import { keyFrom } from './NewRuleDialog';
import { Variants } from './sample/Variants';

interface Known {
  id: string;
  type: string;
  name: string;
}

/** The records of a story up to a step, for references and expectations. */
function recordsOf(sample: SampleTree, lexicon: Lexicon, upTo: number): Known[] {
  const known: Known[] = [];
  const add = (id: string, type: string, values: Values) => {
    const name = values[lexicon.type(type)?.name_field ?? 'title'];
    known.push({ id, type, name: typeof name === 'string' ? name : id });
  };
  for (const [type, records] of Object.entries(sample.given ?? {}))
    for (const record of records) add(record.id, type, record);
  for (const step of sample.steps.slice(0, upTo + 1))
    if (step.create && step.as) add(step.as, step.create, step.with ?? {});
    else if (step.receive?.opens && step.as) add(step.as, step.receive.opens, { title: step.receive.subject });
  return known;
}

function AddMenu({ label, children }: { label: string; children: ReactNode }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="link">{label}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="menu" align="start" sideOffset={4}>
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

const Item = ({ onPick, children }: { onPick: () => void; children: ReactNode }) => (
  <DropdownMenu.Item className="menu-item" onSelect={onPick}>
    {children}
  </DropdownMenu.Item>
);

/** Field values as chips, each edited where it stands. */
function ValueChips({
  type,
  values,
  lexicon,
  records,
  onValues,
  plain,
  fields: asked,
}: {
  /** What may be given; the fields of the type when left out. */
  fields?: FieldTree[];
  type: string;
  values: Values;
  lexicon: Lexicon;
  records: Known[];
  onValues: (values: Values) => void;
  plain?: boolean;
}) {
  const [open, setOpen] = useState<string | null>(null);
  const fields = asked ?? fieldsOf(lexicon.type(type));
  const named = lexicon.with(Object.fromEntries(records.map((r) => [r.id, r.name])));
  return (
    <span className="flex flex-wrap items-center gap-x-3 gap-y-1">
      {Object.entries(values).map(([key, value]) => {
        const field = fields.find((f) => f.key === key);
        if (open === key && field)
          return (
            <span
              key={key}
              className="flex items-center gap-1 bg-sheet text-ink"
              onBlur={(event) => !event.currentTarget.contains(event.relatedTarget) && setOpen(null)}
            >
              <span className="soft pl-1">{field.label.toLowerCase()}</span>
              <span className="w-[170px]">
                <ValueEditor
                  field={field}
                  value={value}
                  lexicon={named}
                  records={records.filter((r) => r.type === field.to)}
                  autoFocus
                  onChange={(next) => onValues({ ...values, [key]: next })}
                />
              </span>
              <button
                type="button"
                aria-label={`Leave ${field.label} out`}
                className="px-1"
                onMouseDown={(event) => {
                  event.preventDefault();
                  setOpen(null);
                  onValues(Object.fromEntries(Object.entries(values).filter(([k]) => k !== key)));
                }}
              >
                ×
              </button>
            </span>
          );
        return (
          <button type="button" key={key} className="text-left hover:underline" onClick={() => setOpen(key)}>
            <span className={plain ? 'soft' : 'opacity-75'}>{(field?.label ?? key).toLowerCase()}</span>{' '}
            {named.say(value, field)}
          </button>
        );
      })}
      <AddMenu label="+">
        {fields
          .filter((f) => !(f.key in values))
          .map((f) => (
            <Item
              key={f.key}
              onPick={() => {
                onValues({ ...values, [f.key]: null });
                setTimeout(() => setOpen(f.key), 0);
              }}
            >
              <span>{f.label}</span>
              <span className="soft mono">{f.key}</span>
            </Item>
          ))}
      </AddMenu>
    </span>
  );
}

function Expected({
  field,
  value,
  lexicon,
  records,
  onChange,
}: {
  field: ReturnType<typeof fieldsOf>[number] | undefined;
  value: unknown;
  lexicon: Lexicon;
  records: Known[];
  onChange: (value: unknown) => void;
}) {
  const [open, setOpen] = useState(false);
  const isTest = typeof value === 'object' && value !== null && 'test' in value;
  if (!open || !field)
    return (
      <button
        type="button"
        className="text-left font-semibold hover:underline"
        onClick={() => setOpen(true)}
        disabled={isTest}
      >
        {isTest ? <span className="mono">{lexicon.say(value)}</span> : lexicon.say(value, field)}
      </button>
    );
  return (
    <span onBlur={(event) => !event.currentTarget.contains(event.relatedTarget) && setOpen(false)}>
      <ValueEditor
        field={field}
        value={value}
        lexicon={lexicon}
        records={records.filter((r) => r.type === field.to)}
        label={`Expected ${field.label}`}
        autoFocus
        onChange={onChange}
      />
    </span>
  );
}

const VERBS: Record<string, string> = {
  create: 'creates',
  delete: 'deletes',
  change: 'changes',
  by_hand: 'starts',
};

const DONE: Record<(typeof DONE_WORDS)[number], string> = {
  messages: 'messages',
  calls: 'calls',
  created: 'records made',
  notes: 'notes',
  notices: 'people told',
};

const questionsOf = (rule: RuleTree | undefined): FieldTree[] =>
  rule?.starts.flatMap((start) => (typeof start === 'string' ? [] : (start.by_hand?.ask ?? []))) ?? [];

/** An expected message, call, record, note or notice in a line. */
function sayDone(one: Values, lexicon: Lexicon): string {
  const words: string[] = [];
  if (Array.isArray(one.to) || typeof one.to === 'string') words.push(`to ${[one.to].flat().join(', ')}`);
  if (Array.isArray(one.people)) words.push(one.people.map((p) => lexicon.person(String(p))).join(', '));
  if (one.call !== undefined) words.push(String(one.call));
  if (one.type !== undefined) words.push(lexicon.type(String(one.type))?.title ?? String(one.type));
  if (one.subject !== undefined) words.push(`“${String(one.subject)}”`);
  if (one.contains !== undefined) words.push(`“${String(one.contains)}”`);
  if (one.for !== undefined) words.push(`for the ${String(one.for)}`);
  for (const map of [one.with, one.body])
    if (map !== undefined && map !== null)
      words.push(
        typeof map === 'object'
          ? Object.entries(map as Values)
              .filter(([, value]) => value !== null)
              .slice(0, 6)
              .map(([key, value]) => `${key} ${lexicon.guess(value)}`)
              .join(', ')
          : String(map),
      );
  return words.join(' · ');
}

function Received({
  step,
  type,
  target,
  lexicon,
  onStep,
}: {
  step: StepTree;
  type: string;
  target: string;
  lexicon: Lexicon;
  onStep: (step: StepTree) => void;
}) {
  const message = step.receive ?? { from: '' };
  const put = (more: Partial<NonNullable<StepTree['receive']>>) =>
    onStep({ ...step, receive: { ...message, ...more } });
  const isRich = message.html !== undefined;
  return (
    <span className="flex min-w-0 flex-1 flex-wrap items-center gap-x-2">
      a message from
      <InPlaceText value={message.from} label="From" className="w-[190px]" onKeep={(from) => put({ from })} />
      {message.opens ? 'opens' : 'is about'} {(lexicon.type(type)?.title ?? type).toLowerCase()}{' '}
      <span className="mono">{target}</span>
      <InPlaceText
        value={message.subject ?? ''}
        label="Subject"
        placeholder="no subject"
        className="min-w-[160px] flex-1 font-semibold"
        onKeep={(subject) => put({ subject })}
      />
      <InPlaceText
        value={(isRich ? message.html : message.text) ?? ''}
        label={isRich ? 'Markup of the message' : 'Text of the message'}
        placeholder="no text"
        className="w-full opacity-85"
        onKeep={(text) => put(isRich ? { html: text } : { text })}
      />
    </span>
  );
}

function Answered({ step, target, onStep }: { step: StepTree; target: string; onStep: (step: StepTree) => void }) {
  const answer = step.answer ?? { call: '' };
  const { status: _, body: __, ...bare } = answer;
  return (
    <span className="flex min-w-0 flex-1 flex-wrap items-center gap-x-2">
      the call <b>{answer.call}</b> {target !== '' && <span className="mono">for {target}</span>} comes back with
      <InPlaceText
        value={answer.status === undefined ? '' : String(answer.status)}
        label="Status"
        placeholder="no answer"
        className="w-[80px]"
        onKeep={(text) =>
          onStep({
            ...step,
            answer: /^\d{3}$/.test(text)
              ? { ...answer, status: Number(text) }
              : { ...bare, ...(answer.body === undefined ? {} : { body: answer.body }) },
          })
        }
      />
      <InPlaceText
        value={answer.body === undefined ? '' : JSON.stringify(answer.body)}
        label="Body, as JSON"
        placeholder="no body"
        className="mono min-w-[160px] flex-1"
        onKeep={(text) => {
          try {
            onStep({ ...step, answer: text === '' ? bare : { ...answer, body: JSON.parse(text) as unknown } });
          } catch {
            onStep({ ...step, answer: { ...answer, body: text } });
          }
        }}
      />
    </span>
  );
}

function StepBlock({
  edited,
  sample,
  index,
}: {
  edited: EditedPart<SampleTree>;
  sample: NumberedSample;
  index: number;
}) {
  const shop = useWorkshop();
  const { tree, edit, errors } = edited;
  const step = tree.steps[index] as StepTree;
  const result = sample.result?.steps[index];
  const records = recordsOf(tree, shop.lexicon, index);
  const lexicon = shop.lexicon.with(Object.fromEntries(records.map((r) => [r.id, r.name])));
  const current = shop.inHand?.part.key === sample.part.key && shop.step === index;
  const target =
    step.create || step.receive?.opens
      ? (step.as ?? '')
      : (step.change ?? step.delete ?? step.receive?.about ?? step.on ?? '');
  const type = step.create ?? step.receive?.opens ?? records.find((r) => r.id === target)?.type ?? '';
  const verb = Object.keys(VERBS).find((key) => step[key as keyof StepTree] !== undefined) ?? 'change';
  const put = (next: StepTree) => edit({ ...tree, steps: tree.steps.map((old, i) => (i === index ? next : old)) });
  const expect: ExpectTree = step.expect ?? {};
  const putExpect = (next: ExpectTree) => put({ ...step, expect: next });
  const differences = result?.differences ?? [];
  const differs = (record: string | null, field: string, expected?: unknown): Difference | undefined =>
    differences.find(
      (d) => d.record === record && d.field === field && (expected === undefined || d.expected === expected),
    );
  const person = usePerson();
  const number = (key: string) => shop.rules.findIndex((r) => r.tree.key === key) + 1;
  const title = (key: string) => `${number(key)} ${shop.rules.find((r) => r.tree.key === key)?.tree.title ?? key}`;
  const changedBy = (field: string) => result?.changes.filter((c) => c.field === field && c.rule !== null).at(-1)?.rule;
  const tracedStep = shop.inHand?.part.key === sample.part.key ? shop.tracedSteps[index] : undefined;
  const traceOf = (id: string) =>
    [tracedStep?.trace, ...(tracedStep?.others ?? [])].find((trace) => trace && trace.event.record === id);
  const values = (shop.inHand?.part.key === sample.part.key ? shop.tracedSteps[index]?.values[target] : undefined) as
    | Values
    | undefined;
  const unlooked = Object.entries(values ?? {}).filter(
    ([key]) =>
      fieldsOf(lexicon.type(type)).some((f) => f.key === key) &&
      !(key in ((expect[target] ?? {}) as Values)) &&
      !(key in (step.with ?? {})),
  );
  const takeAll = (list: Difference[]) => edit(accept(tree, index, list, person.key));
  const mistakes = [...errors.entries()].filter(([pointer]) => pointer.startsWith(`/steps/${index}`));

  return (
    <section className="mt-3.5" data-test={`step-${index + 1}`}>
      <div
        className={`flex items-start gap-3 border border-ink px-2.5 py-1 ${current ? 'bg-ink text-paper' : 'bg-sheet'} [&_.link]:text-current`}
      >
        <button
          type="button"
          className="font-bold"
          onClick={() => shop.setStep(index)}
          aria-label={`Step ${index + 1}`}
        >
          {index + 1}
        </button>
        {step.clock !== undefined ? (
          <span className="flex items-center gap-2">
            the clock moves to
            <InPlaceText
              value={step.clock}
              label="Clock"
              className="w-[190px]"
              onKeep={(clock) => put({ ...step, clock })}
            />
          </span>
        ) : step.receive ? (
          <Received step={step} type={type} target={target} lexicon={lexicon} onStep={put} />
        ) : step.answer ? (
          <Answered step={step} target={target} onStep={put} />
        ) : (
          <>
            <span className="whitespace-nowrap">
              <select
                className="bg-transparent [&>option]:bg-sheet [&>option]:text-ink"
                aria-label="Who"
                value={step.by ?? ''}
                onChange={(e) => {
                  const { by: _, ...rest } = step;
                  put(e.target.value === '' ? rest : { ...step, by: e.target.value });
                }}
              >
                <option value="">The runner</option>
                {lexicon.allPeople().map((person) => (
                  <option key={person.key} value={person.key}>
                    {person.name}
                  </option>
                ))}
              </select>{' '}
              {VERBS[verb]}{' '}
              {step.by_hand && (
                <>
                  <select
                    className="max-w-[220px] bg-transparent font-semibold [&>option]:bg-sheet [&>option]:text-ink"
                    aria-label="Rule that is started"
                    value={step.by_hand}
                    onChange={(e) => put({ ...step, by_hand: e.target.value, with: {} })}
                  >
                    {shop.rules
                      .filter((r) => r.tree.starts.some((s) => startKind(s) === 'by_hand'))
                      .map((r) => (
                        <option key={r.tree.key} value={r.tree.key}>
                          {title(r.tree.key)}
                        </option>
                      ))}
                  </select>{' '}
                  on{' '}
                </>
              )}
              {(lexicon.type(type)?.title ?? type).toLowerCase()} <span className="mono">{target}</span>
              {step.repeat && step.repeat > 1 && <b> {step.repeat} times</b>}
            </span>
            {!step.delete && (
              <span className="ml-auto">
                <ValueChips
                  type={type}
                  {...(step.by_hand
                    ? { fields: questionsOf(shop.rules.find((r) => r.tree.key === step.by_hand)?.tree) }
                    : {})}
                  values={(Array.isArray(step.with) ? {} : step.with) ?? {}}
                  lexicon={lexicon}
                  records={records}
                  onValues={(next) => put({ ...step, with: next })}
                />
              </span>
            )}
            {step.delete && <span className="ml-auto" />}
          </>
        )}
        <button
          type="button"
          aria-label={`Remove step ${index + 1}`}
          disabled={tree.steps.length === 1}
          onClick={() => edit({ ...tree, steps: tree.steps.filter((_, i) => i !== index) })}
        >
          ×
        </button>
      </div>
      {step.accepted && (
        <p className="soft px-2 py-1 text-[13px]" data-test="accepted">
          What came out was accepted by {lexicon.person(step.accepted.by)},{' '}
          {moment(step.accepted.at, shop.draft.timezone).short}
        </p>
      )}
      {mistakes.map(([pointer, error]) => (
        <p key={pointer} role="alert" className="text-[13px] text-red">
          ✕ {error.detail}
        </p>
      ))}
      <table className="ledger">
        <thead>
          <tr>
            <th className="w-[24%]">Must come out</th>
            <th className="w-[30%]">Expected</th>
            <th>Came out</th>
            <th className="w-[150px] whitespace-nowrap" aria-label="By">
              {differences.length > 1 && (
                <button type="button" className="link font-semibold" onClick={() => takeAll(differences)}>
                  accept all {differences.length}
                </button>
              )}
            </th>
          </tr>
        </thead>
        <tbody>
          {Object.entries(expect)
            .filter(([id]) => !EXPECT_WORDS.includes(id))
            .flatMap(([id, fields]) =>
              Object.entries((fields ?? {}) as Values).map(([key, expected]) => {
                const of = records.find((r) => r.id === id)?.type ?? type;
                const field = lexicon.field(of, key);
                const d = differs(id, key);
                const by = changedBy(key);
                return (
                  <tr key={`${id} ${key}`} className={d ? 'bg-redbg' : ''} data-test={`expect-${id}-${key}`}>
                    <td>
                      <span className="mono soft">{id}</span> {(field?.label ?? key).toLowerCase()}
                    </td>
                    <td>
                      <Expected
                        field={field}
                        value={expected}
                        lexicon={lexicon}
                        records={records}
                        onChange={(value) => putExpect({ ...expect, [id]: { ...(fields as Values), [key]: value } })}
                      />
                    </td>
                    <td>
                      {d ? (
                        <WhyValue trace={traceOf(id)} field={key} lexicon={lexicon} title={title}>
                          <b className="text-red">{lexicon.say(d.actual, field)}</b>
                        </WhyValue>
                      ) : result ? (
                        <>
                          <WhyValue trace={traceOf(id)} field={key} lexicon={lexicon} title={title}>
                            {lexicon.say(expected, field)}
                          </WhyValue>{' '}
                          <b className="text-teal">✓</b>
                        </>
                      ) : (
                        ''
                      )}
                    </td>
                    <td className="whitespace-nowrap">
                      {d && (
                        <button type="button" className="link mr-3" onClick={() => takeAll([d])}>
                          accept
                        </button>
                      )}
                      {by && (
                        <Link to={`/rulebook/${by}`} className="soft hover:underline" title={title(by)}>
                          rule {number(by)}
                        </Link>
                      )}
                      <button
                        type="button"
                        className="soft float-right"
                        aria-label={`Do not look at ${field?.label ?? key}`}
                        onClick={() =>
                          putExpect({
                            ...expect,
                            [id]: Object.fromEntries(Object.entries(fields as Values).filter(([k]) => k !== key)),
                          })
                        }
                      >
                        ×
                      </button>
                    </td>
                  </tr>
                );
              }),
            )}
          {(['acted', 'still'] as const).map((word) => {
            const rules = expect[word] ?? [];
            if (rules.length === 0) return null;
            const off = rules.filter((rule) => differs(null, word, rule));
            return (
              <tr key={word} className={off.length > 0 ? 'bg-redbg' : ''}>
                <td>{word === 'acted' ? 'rules that act' : 'rules that keep still'}</td>
                <td className="font-semibold">
                  {rules.map((rule) => (
                    <button
                      key={rule}
                      type="button"
                      className="mr-2 hover:line-through"
                      title={`${title(rule)}: take it out`}
                      onClick={() => putExpect({ ...expect, [word]: rules.filter((r) => r !== rule) })}
                    >
                      {number(rule)}
                    </button>
                  ))}
                  <AddMenu label="+">
                    {shop.rules
                      .filter((r) => !rules.includes(r.tree.key))
                      .map((r) => (
                        <Item key={r.tree.key} onPick={() => putExpect({ ...expect, [word]: [...rules, r.tree.key] })}>
                          {title(r.tree.key)}
                        </Item>
                      ))}
                  </AddMenu>
                </td>
                <td>
                  {off.length === 0 ? (
                    <b className="text-teal">✓</b>
                  ) : (
                    off.map((rule) => (
                      <p key={rule} className="text-red">
                        {title(rule)}: {String(differs(null, word, rule)?.actual)}
                      </p>
                    ))
                  )}
                </td>
                <td>
                  {off.length > 0 && (
                    <button
                      type="button"
                      className="link"
                      onClick={() => takeAll(differences.filter((d) => d.record === null && d.field === word))}
                    >
                      accept
                    </button>
                  )}
                </td>
              </tr>
            );
          })}
          {DONE_WORDS.map((word) => {
            const expected = expect[word];
            const done = (result?.done[word] ?? []) as Values[];
            if (expected === undefined && done.length === 0) return null;
            const d = differs(null, word);
            return (
              <tr key={word} className={d ? 'bg-redbg' : ''} data-test={`done-${word}`}>
                <td>{DONE[word]}</td>
                <td>
                  {expected === undefined ? (
                    <span className="soft">not looked at</span>
                  ) : expected.length === 0 ? (
                    <b>none</b>
                  ) : (
                    expected.map((one, i) => <p key={i}>{sayDone(one, lexicon)}</p>)
                  )}
                </td>
                <td>
                  {done.length === 0
                    ? 'none'
                    : done.map((one, i) => <p key={i}>{sayDone(toExpect(word, one), lexicon)}</p>)}
                  {expected !== undefined && !d && <b className="text-teal"> ✓</b>}
                </td>
                <td className="whitespace-nowrap">
                  {(d || expected === undefined) && (
                    <button
                      type="button"
                      className="link mr-3"
                      onClick={() => putExpect({ ...expect, [word]: done.map((one) => toExpect(word, one)) })}
                    >
                      {d ? 'accept' : 'expect'}
                    </button>
                  )}
                  {expected !== undefined && (
                    <button
                      type="button"
                      className="soft float-right"
                      aria-label={`Do not look at ${DONE[word]}`}
                      onClick={() => {
                        const { [word]: _, ...rest } = expect;
                        putExpect(rest as ExpectTree);
                      }}
                    >
                      ×
                    </button>
                  )}
                </td>
              </tr>
            );
          })}
          {(expect.unchanged ?? []).length > 0 && (
            <tr className={differs(null, 'unchanged') ? 'bg-redbg' : ''}>
              <td>left as they are</td>
              <td className="font-semibold">
                {(expect.unchanged ?? []).map((id) => (
                  <button
                    key={id}
                    type="button"
                    className="mono mr-2 hover:line-through"
                    title="Take it out"
                    onClick={() =>
                      putExpect({ ...expect, unchanged: (expect.unchanged ?? []).filter((x) => x !== id) })
                    }
                  >
                    {id}
                  </button>
                ))}
              </td>
              <td>
                {differences
                  .filter((x) => x.field === 'unchanged')
                  .map((x) => (
                    <p key={String(x.expected)} className="text-red">
                      {String(x.expected)} changed: {lexicon.say(x.actual)}
                    </p>
                  ))}
                {!differs(null, 'unchanged') && <b className="text-teal">✓</b>}
              </td>
              <td>
                {differs(null, 'unchanged') && (
                  <button
                    type="button"
                    className="link"
                    onClick={() => takeAll(differences.filter((x) => x.field === 'unchanged'))}
                  >
                    accept
                  </button>
                )}
              </td>
            </tr>
          )}
          {(expect.refused !== undefined || (result?.refused.length ?? 0) > 0) && (
            <tr className={differs(null, 'refused') ? 'bg-redbg' : ''}>
              <td>turned down</td>
              <td className="font-semibold">
                {typeof expect.refused === 'string' ? `“${expect.refused}”` : expect.refused ? 'yes' : 'no'}
              </td>
              <td>
                {(result?.refused ?? []).map((r) => r.reason).join(' ') || 'no'}{' '}
                {!differs(null, 'refused') && <b className="text-teal">✓</b>}
              </td>
              <td>
                {differs(null, 'refused') && (
                  <button
                    type="button"
                    className="link"
                    onClick={() => takeAll(differences.filter((d) => d.field === 'refused'))}
                  >
                    accept
                  </button>
                )}
              </td>
            </tr>
          )}
          {((expect.problems?.length ?? 0) > 0 || (result?.problems.length ?? 0) > 0) && (
            <tr className={differs(null, 'problems') ? 'bg-redbg' : ''}>
              <td>problems</td>
              <td className="font-semibold">{(expect.problems ?? []).map(title).join(', ') || 'none'}</td>
              <td>
                {(result?.problems ?? []).map((p) => (
                  <p key={p.message}>
                    {p.rule && title(p.rule)}: {p.message}
                  </p>
                ))}
              </td>
              <td>
                {differs(null, 'problems') && (
                  <button
                    type="button"
                    className="link"
                    onClick={() => takeAll(differences.filter((d) => d.field === 'problems'))}
                  >
                    accept
                  </button>
                )}
              </td>
            </tr>
          )}
          <tr>
            <td className="soft">not looked at</td>
            <td colSpan={3}>
              <span className="soft">
                {unlooked
                  .map(
                    ([key, value]) =>
                      `${(lexicon.label(type, key) ?? key).toLowerCase()} ${lexicon.say(value, lexicon.field(type, key))}`,
                  )
                  .join(' · ') || 'nothing else'}
              </span>{' '}
              {unlooked.length > 0 && (
                <button
                  type="button"
                  className="link ml-2"
                  onClick={() =>
                    putExpect({
                      ...expect,
                      [target]: { ...((expect[target] ?? {}) as Values), ...Object.fromEntries(unlooked) },
                    })
                  }
                >
                  expect these too
                </button>
              )}{' '}
              <AddMenu label="+ expectation">
                {fieldsOf(lexicon.type(type))
                  .filter((f) => !(f.key in ((expect[target] ?? {}) as Values)))
                  .map((f) => (
                    <Item
                      key={f.key}
                      onPick={() =>
                        putExpect({
                          ...expect,
                          [target]: { ...((expect[target] ?? {}) as Values), [f.key]: values?.[f.key] ?? null },
                        })
                      }
                    >
                      {f.label}
                    </Item>
                  ))}
                {!expect.acted?.length && (
                  <Item
                    onPick={() =>
                      putExpect({
                        ...expect,
                        acted: result?.acted.length ? result.acted : [shop.rules[0]?.tree.key ?? ''],
                      })
                    }
                  >
                    rules that act
                  </Item>
                )}
                {!expect.still?.length && (
                  <Item
                    onPick={() => putExpect({ ...expect, still: [tree.rules?.[0] ?? shop.rules[0]?.tree.key ?? ''] })}
                  >
                    rules that keep still
                  </Item>
                )}
                <Item onPick={() => putExpect({ ...expect, refused: true })}>it is turned down</Item>
                {DONE_WORDS.filter((word) => expect[word] === undefined).map((word) => (
                  <Item
                    key={word}
                    onPick={() =>
                      putExpect({
                        ...expect,
                        [word]: ((result?.done[word] ?? []) as Values[]).map((one) => toExpect(word, one)),
                      })
                    }
                  >
                    {DONE[word]}
                  </Item>
                ))}
                {records
                  .filter((r) => r.id !== target && !(expect.unchanged ?? []).includes(r.id))
                  .map((r) => (
                    <Item
                      key={`same ${r.id}`}
                      onPick={() => putExpect({ ...expect, unchanged: [...(expect.unchanged ?? []), r.id] })}
                    >
                      {r.id} is left as it is
                    </Item>
                  ))}
              </AddMenu>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  );
}

function Story({ edited, sample }: { edited: EditedPart<SampleTree>; sample: NumberedSample }) {
  const shop = useWorkshop();
  const { tree, edit } = edited;
  const { lexicon } = shop;
  const records = recordsOf(tree, lexicon, -1);
  const all = recordsOf(tree, lexicon, tree.steps.length);
  useKeys({ 'Ctrl+z': edited.undo, 'Ctrl+Shift+z': edited.redo, 'Ctrl+y': edited.redo });
  const freeId = (type: string): string => {
    const start = lexicon.type(type)?.short ?? type.charAt(0).toUpperCase();
    let n = 1;
    while (all.some((r) => r.id === `${start}${n}`)) n++;
    return `${start}${n}`;
  };
  const putGiven = (type: string, list: ({ id: string } & Values)[]) => {
    const given = { ...tree.given, [type]: list };
    if (list.length === 0) delete given[type];
    edit({ ...tree, given });
  };
  const clock = new Date(tree.clock ?? '2027-01-04T09:00:00');
  return (
    <div className="overflow-auto bg-sheet px-4 py-3" data-test="story">
      <div className="flex items-center gap-3 text-[13px]">
        <Link to="/samples" className="soft hover:underline">
          Samples
        </Link>
        <select
          className="field py-0 text-[13px]"
          aria-label="What it proves"
          value={tree.proves}
          onChange={(e) => edit({ ...tree, proves: e.target.value as SampleTree['proves'] })}
        >
          {PROVES.map(([key, label]) => (
            <option key={key} value={key}>
              {label}
            </option>
          ))}
        </select>
        <span className="soft whitespace-nowrap">
          {sample.number} of {shop.samples.length}
        </span>
        <span className="mono soft truncate">{tree.key}</span>
        {tree.taken_from && (
          <span className="soft whitespace-nowrap">
            taken from{' '}
            <Link to={`/tickets/${tree.taken_from}`} className="underline">
              {tree.taken_from}
            </Link>
          </span>
        )}
        <span className="flex-1" />
        <span className={edited.status === 'not saved' ? 'font-semibold text-red' : 'soft'} data-test="save-state">
          {edited.status}
        </span>
        <button type="button" className="soft" disabled={!edited.canUndo} onClick={edited.undo}>
          undo
        </button>
        <RemovePart kind="samples" part={edited.part} title={tree.title} what="sample" to="/samples">
          remove
        </RemovePart>
      </div>
      <div className="mt-1 flex items-baseline gap-3">
        <h1 className="min-w-0 flex-1">
          <InPlaceText
            value={tree.title}
            label="Title of the sample"
            className="w-full"
            onKeep={(title) => edit({ ...tree, title })}
          />
        </h1>
        <Verdict verdict={sample.result?.verdict} />
      </div>
      {tree.proves === 'load' && sample.result && (
        <p className="soft" data-test="load">
          {sample.result.events === 1 ? 'one event' : `${sample.result.events} events`} in{' '}
          {Math.round(sample.result.ms)} ms, {(sample.result.memory / 1e6).toFixed(1)} MB at most, the store asked{' '}
          {sample.result.queries === 1 ? 'once' : `${sample.result.queries.toLocaleString('en')} times`}
        </p>
      )}
      <ProblemNote problem={edited.note} />
      {sample.result?.broken.map((why) => (
        <p key={why} role="alert" className="mt-2 border-l-3 border-red bg-redbg px-3 py-1">
          ✕ {why}
        </p>
      ))}
      <h2 className="mt-3 border-b border-ink pb-1">
        Given, on {clock.toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' })} at{' '}
        {clock.toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })}
      </h2>
      {Object.entries(tree.given ?? {}).flatMap(([type, list]) =>
        list.map((record, i) => {
          const { id, ...values } = record;
          return (
            <div key={id} className="flex items-start gap-3 border-b border-faint py-1.5">
              <span className="w-[120px] shrink-0">
                <span className="mono soft">{id}</span> {lexicon.type(type)?.title ?? type}
              </span>
              <span className="flex-1">
                <ValueChips
                  plain
                  type={type}
                  values={values}
                  lexicon={lexicon}
                  records={records}
                  onValues={(next) =>
                    putGiven(
                      type,
                      list.map((old, j) => (j === i ? { id, ...next } : old)),
                    )
                  }
                />
              </span>
              <button
                type="button"
                className="soft"
                aria-label={`Remove ${id}`}
                onClick={() =>
                  putGiven(
                    type,
                    list.filter((_, j) => j !== i),
                  )
                }
              >
                ×
              </button>
            </div>
          );
        }),
      )}
      {Object.keys(tree.given ?? {}).length === 0 && <p className="soft border-b border-faint py-1.5">no records</p>}
      {tree.steps.map((_, i) => (
        <StepBlock key={i} edited={edited} sample={sample} index={i} />
      ))}
      <div className="mt-4 flex gap-5">
        <AddMenu label="+ step">
          {all.map((record) => (
            <Item
              key={record.id}
              onPick={() => edit({ ...tree, steps: [...tree.steps, { change: record.id, with: {}, expect: {} }] })}
            >
              change {record.id} <span className="soft">{record.name}</span>
            </Item>
          ))}
          {shop.types
            .filter((type) => type.kind === 'ticket')
            .map((type) => (
              <Item
                key={type.key}
                onPick={() =>
                  edit({
                    ...tree,
                    steps: [
                      ...tree.steps,
                      { create: type.key, as: freeId(type.key), with: { title: 'A new one' }, expect: {} },
                    ],
                  })
                }
              >
                create a {type.title.toLowerCase()}
              </Item>
            ))}
          {recordsOf(tree, shop.lexicon, tree.steps.length).map((record) => (
            <Item
              key={`delete ${record.id}`}
              onPick={() => edit({ ...tree, steps: [...tree.steps, { delete: record.id, expect: {} }] })}
            >
              delete {record.name}
            </Item>
          ))}
          {shop.types
            .filter((type) => type.kind === 'ticket')
            .map((type) => (
              <Item
                key={`receive ${type.key}`}
                onPick={() =>
                  edit({
                    ...tree,
                    steps: [
                      ...tree.steps,
                      {
                        receive: { from: 'somebody@example.com', subject: 'A message', text: 'Hello', opens: type.key },
                        as: freeId(type.key),
                        expect: {},
                      },
                    ],
                  })
                }
              >
                a message opens a {type.title.toLowerCase()}
              </Item>
            ))}
          {all
            .filter((record) => lexicon.type(record.type)?.kind === 'ticket')
            .map((record) => (
              <Item
                key={`about ${record.id}`}
                onPick={() =>
                  edit({
                    ...tree,
                    steps: [
                      ...tree.steps,
                      {
                        receive: {
                          from: 'somebody@example.com',
                          subject: 'An answer',
                          text: 'Hello',
                          about: record.id,
                        },
                        expect: {},
                      },
                    ],
                  })
                }
              >
                a message comes in about {record.id}
              </Item>
            ))}
          {shop.rules
            .filter((r) => r.tree.starts.some((start) => startKind(start) === 'by_hand'))
            .flatMap((r) =>
              all
                .filter((record) => typesOf(r.tree).includes(record.type))
                .map((record) => (
                  <Item
                    key={`hand ${r.tree.key} ${record.id}`}
                    onPick={() =>
                      edit({
                        ...tree,
                        steps: [...tree.steps, { by_hand: r.tree.key, on: record.id, with: {}, expect: {} }],
                      })
                    }
                  >
                    start “{r.tree.title}” on {record.id}
                  </Item>
                )),
            )}
          {[...new Set(shop.rules.flatMap((r) => r.tree.changes.flatMap((c) => (c.call ? [String(c.call)] : []))))].map(
            (call) => (
              <Item
                key={`answer ${call}`}
                onPick={() =>
                  edit({ ...tree, steps: [...tree.steps, { answer: { call, status: 200, body: {} }, expect: {} }] })
                }
              >
                the call “{call}” comes back
              </Item>
            ),
          )}
          <Item
            onPick={() => edit({ ...tree, steps: [...tree.steps, { clock: tree.clock ?? '2027-01-04T10:00:00' }] })}
          >
            move the clock
          </Item>
        </AddMenu>
        <AddMenu label="+ given record">
          {shop.types.map((type) => (
            <Item
              key={type.key}
              onPick={() =>
                putGiven(type.key, [
                  ...(tree.given?.[type.key] ?? []),
                  { id: freeId(type.key), [type.name_field ?? 'title']: `A ${type.title.toLowerCase()}` },
                ])
              }
            >
              {type.title}
            </Item>
          ))}
        </AddMenu>
      </div>
      <Variants tree={tree} result={sample.result} edit={edit} />
      <Conflict theirs={edited.conflict} mine={tree} who={(key) => lexicon.person(key)} onSettle={edited.settle} />
    </div>
  );
}

function SamplePage({ sample }: { sample: NumberedSample }) {
  const shop = useWorkshop();
  const edited = usePart<SampleTree>('samples', sample.part.key);
  const title = (key: string) => {
    const i = shop.rules.findIndex((r) => r.tree.key === key);
    return `${i + 1} ${shop.rules[i]?.tree.title ?? key}`;
  };
  if (!edited) return null;
  const passes = shop.traced?.trace?.passes ?? [];
  return (
    <main className="grid h-full grid-cols-[minmax(0,1fr)_420px]">
      <Story edited={edited} sample={sample} />
      <aside className="overflow-auto border-l border-ink px-3.5 py-3" aria-label="Trace" tabIndex={0}>
        <p className="mb-2 flex justify-between">
          <b>Trace of step {shop.step + 1}</b>
          <span className="soft">
            {passes.length} {passes.length === 1 ? 'pass' : 'passes'} ·{' '}
            {new Set(passes.flatMap((p) => p.rules.map((r) => r.rule))).size} rules due ·{' '}
            <Link className="link" to={`/samples/${sample.part.key}/beside/edition`}>
              side by side
            </Link>
          </span>
        </p>
        {shop.traced?.trace ? (
          <>
            <TraceView trace={shop.traced.trace} lexicon={shop.lexicon} ruleTitle={title} />
            {shop.traced.others.map((other) => (
              <details
                key={other.event.record + other.event.kind}
                className="mt-3 border-t border-ink pt-2"
                data-test="other-trace"
              >
                <summary className="cursor-pointer font-semibold">
                  What followed on <span className="mono">{other.event.record}</span>
                </summary>
                <TraceView trace={other} lexicon={shop.lexicon} ruleTitle={title} />
              </details>
            ))}
          </>
        ) : (
          <p className="soft">
            {sample.result?.verdict === 'broken'
              ? 'A broken sample cannot be replayed.'
              : 'No rule looks at this step.'}
          </p>
        )}
      </aside>
    </main>
  );
}

/** Stories of tickets: a list, and each read downward. */
export default function Samples() {
  const { key } = useParams();
  const shop = useWorkshop();
  const navigate = useNavigate();
  const [filter, setFilter] = useState('');
  const [problem, setProblem] = useState<Problem | null>(null);
  const { takeInHand } = shop;
  const sample = shop.samples.find((s) => s.part.key === key);
  const known = sample !== undefined;
  useEffect(() => {
    if (key && known) takeInHand(key);
  }, [key, known, takeInHand]);
  // the keys that turn to another sample turn the page too
  const hand = shop.inHand?.part.key;
  const before = useRef(hand);
  useEffect(() => {
    if (key && hand && hand !== key && before.current === key) navigate(`/samples/${hand}`, { replace: true });
    before.current = hand;
  }, [hand, key, navigate]);
  const add = async () => {
    const ticket = shop.types.find((type) => type.kind === 'ticket');
    if (!ticket) return;
    const fresh = keyFrom(
      'New sample',
      shop.samples.map((s) => s.part.key),
    );
    const id = `${ticket.short ?? 'N'}1`;
    const tree = {
      key: fresh,
      title: 'A new sample',
      proves: 'act',
      steps: [{ create: ticket.key, as: id, with: { title: 'A new one' }, expect: {} }],
    };
    try {
      shop.saved('samples', await api.addPart('samples', tree));
      navigate(`/samples/${fresh}`);
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  if (key && sample) return <SamplePage key={key} sample={sample} />;
  const words = filter.trim().toLowerCase();
  return (
    <main className="flex h-full flex-col">
      <div className="head">
        <h1>Samples</h1>
        <input
          data-filter
          className="field w-[240px]"
          placeholder="Filter samples  /"
          aria-label="Filter samples"
          value={filter}
          onChange={(e) => setFilter(e.target.value)}
        />
        <span className="soft">Any ticket becomes one: open it and keep it as a sample.</span>
        <button type="button" className="btn btn-main ml-auto" onClick={() => void add()}>
          New sample
        </button>
      </div>
      <div className="flex-1 overflow-auto bg-sheet">
        <ProblemNote problem={problem} />
        {key && !sample && <p className="px-4 py-3 text-red">There is no sample “{key}”; it may have been removed.</p>}
        <table className="ledger">
          <thead>
            <tr>
              <th className="w-10">No.</th>
              <th>Sample</th>
              <th>Proves</th>
              <th>Steps</th>
              <th>About</th>
              <th>Verdict</th>
            </tr>
          </thead>
          <tbody>
            {shop.samples
              .filter(
                (s) =>
                  words === '' ||
                  `${s.tree.title} ${s.part.key} ${(s.tree.rules ?? []).join(' ')}`.toLowerCase().includes(words),
              )
              .map((s) => (
                <tr key={s.part.key}>
                  <td className="soft">{s.number}</td>
                  <td>
                    <Link to={`/samples/${s.part.key}`} className="font-semibold hover:underline">
                      {s.tree.title}
                    </Link>
                  </td>
                  <td>{PROVES.find(([p]) => p === s.tree.proves)?.[1]}</td>
                  <td>{s.tree.steps.length}</td>
                  <td className="soft">
                    {(s.tree.rules ?? [])
                      .map((rule) => shop.rules.findIndex((r) => r.tree.key === rule) + 1)
                      .filter((n) => n > 0)
                      .map((n) => `rule ${n}`)
                      .join(', ')}
                  </td>
                  <td>
                    <Verdict verdict={s.result?.verdict} />
                  </td>
                </tr>
              ))}
          </tbody>
        </table>
        {shop.samples.length === 0 && (
          <p className="p-6">No sample yet. A rule that no sample proves is a guess; write the first one.</p>
        )}
      </div>
    </main>
  );
}
