import { Popover } from 'radix-ui';
import type { InputError, RuleTrace } from '../../api/client';
import {
  type FieldTree,
  fieldsOf,
  type RuleTree,
  type StartParts,
  type StartTree,
  settable,
  startKind,
  typesOf,
} from '../../api/trees';
import type { Lexicon } from '../../app/lexicon';
import { sayWhy } from '../../app/sayWhy';
import { saySchedule, sayStart, sayTest } from '../../app/sentence';
import { useMay } from '../../app/session';
import type { EditedPart } from '../../app/usePart';
import type { World } from '../../parts/complete';
import { FormulaInput } from '../../parts/FormulaInput';
import { InPlaceText } from '../../parts/InPlaceText';
import { mark } from '../../parts/marks';
import { keyFrom } from '../NewRuleDialog';
import { fieldEntries, Line, PickMenu } from './Line';

const ROLES = ['requester', 'agent', 'builder', 'publisher', 'administrator'];

const ASKED = ['text', 'long_text', 'number', 'yes_no', 'date', 'date_time', 'choice', 'person', 'team', 'reference'];

const TIMES: [string, string][] = [
  ['0 7 * * 1-5', 'on workdays at 07:00'],
  ['0 7 * * *', 'every day at 07:00'],
  ['0 * * * *', 'every hour'],
  ['30 15 * * 5', 'every Friday at 15:30'],
  ['0 8 1 * *', 'on day 1 of every month'],
];

function StartWords({ start, rule, lexicon }: { start: StartTree; rule: RuleTree; lexicon: Lexicon }) {
  if (typeof start === 'string') return <>{start}</>;
  if (startKind(start) !== 'changed') return <span>{sayStart(start, rule, lexicon)}</span>;
  return (
    <span>
      change of{' '}
      {(start.changed ?? []).map((key, i) => (
        <span key={key}>
          {i > 0 && ' or '}
          <b>{lexicon.label(typesOf(rule), key)}</b>
        </span>
      ))}
      {start.from !== undefined && ` from ${sayTest(start.from, rule, start.changed?.[0] ?? '', lexicon)}`}
      {start.to !== undefined && ` to ${sayTest(start.to, rule, start.changed?.[0] ?? '', lexicon)}`}
    </span>
  );
}

/** Fields that are looked at, each with a way out, and another to pick. */
function FieldSet({
  keys,
  fields,
  label,
  onKeys,
}: {
  keys: string[];
  fields: FieldTree[];
  label: string;
  onKeys: (keys: string[]) => void;
}) {
  return (
    <p className="mb-2 flex flex-wrap items-center gap-2">
      {keys.map((key) => (
        <span key={key} className="border border-line px-1.5">
          {fields.find((f) => f.key === key)?.label ?? key}{' '}
          <button
            type="button"
            className="soft"
            aria-label={`Leave ${key} out`}
            onClick={() => onKeys(keys.filter((k) => k !== key))}
          >
            ×
          </button>
        </span>
      ))}
      <PickMenu
        label={label}
        groups={[
          {
            entries: fieldEntries(
              fields.filter((f) => !keys.includes(f.key)),
              (key) => onKeys([...keys, key]),
            ),
          },
        ]}
      />
    </p>
  );
}

function Questions({ ask, lexicon, onAsk }: { ask: FieldTree[]; lexicon: Lexicon; onAsk: (ask: FieldTree[]) => void }) {
  const put = (i: number, field: FieldTree | null) =>
    onAsk(ask.flatMap((old, j) => (j === i ? (field ? [field] : []) : [old])));
  return (
    <div>
      {ask.map((field, i) => (
        <div key={field.key} className="mb-2 border-l border-line pl-2">
          <div className="flex items-center gap-2">
            <InPlaceText
              value={field.label}
              label="Question"
              className="min-w-0 flex-1"
              onKeep={(label) => put(i, { ...field, label })}
            />
            <button
              type="button"
              className="soft"
              aria-label={`Do not ask ${field.label}`}
              onClick={() => put(i, null)}
            >
              ×
            </button>
          </div>
          <div className="flex flex-wrap items-center gap-2 text-[13px]">
            <span className="mono soft">event.inputs.{field.key}</span>
            <select
              className="field"
              aria-label={`Kind of answer to ${field.label}`}
              value={field.type}
              onChange={(e) => {
                const { options: _, to: __, min: ___, max: ____, ...rest } = field;
                const type = e.target.value;
                put(i, {
                  ...rest,
                  type,
                  ...(type === 'choice' ? { options: [{ key: 'first', label: 'First' }] } : {}),
                  ...(type === 'reference' ? { to: lexicon.allTypes()[0]?.key ?? '' } : {}),
                });
              }}
            >
              {ASKED.map((type) => (
                <option key={type} value={type}>
                  {type.replace('_', ' ')}
                </option>
              ))}
            </select>
            {field.type === 'reference' && (
              <select
                className="field"
                aria-label={`What ${field.label} refers to`}
                value={field.to ?? ''}
                onChange={(e) => put(i, { ...field, to: e.target.value })}
              >
                {lexicon.allTypes().map((t) => (
                  <option key={t.key} value={t.key}>
                    {t.title}
                  </option>
                ))}
              </select>
            )}
            {field.type === 'choice' && (
              <InPlaceText
                value={(field.options ?? []).map((o) => o.label).join(', ')}
                label={`Options of ${field.label}`}
                placeholder="options, with commas between"
                className="min-w-[140px] flex-1"
                onKeep={(text) => {
                  const labels = text
                    .split(',')
                    .map((l) => l.trim())
                    .filter((l) => l !== '');
                  const options: { key: string; label: string }[] = [];
                  for (const label of labels)
                    options.push({
                      key:
                        (field.options ?? []).find((o) => o.label === label)?.key ??
                        keyFrom(
                          label,
                          options.map((o) => o.key),
                        ),
                      label,
                    });
                  put(i, { ...field, options });
                }}
              />
            )}
            <label>
              <input
                type="checkbox"
                checked={field.required ?? false}
                onChange={(e) => {
                  const { required: _, ...rest } = field;
                  put(i, e.target.checked ? { ...rest, required: true } : rest);
                }}
              />{' '}
              must be answered
            </label>
          </div>
        </div>
      ))}
      <button
        type="button"
        className="link"
        onClick={() =>
          onAsk([
            ...ask,
            {
              key: keyFrom(
                'answer',
                ask.map((f) => f.key),
              ),
              label: 'What is to be known?',
              type: 'text',
            },
          ])
        }
      >
        + question
      </button>
    </div>
  );
}

function StartEditor({
  start,
  rule,
  lexicon,
  world,
  mistake,
  onChange,
}: {
  start: StartParts;
  rule: RuleTree;
  lexicon: Lexicon;
  world: World;
  mistake: (key: string) => InputError | undefined;
  onChange: (start: StartTree) => void;
}) {
  const kind = startKind(start);
  const own = fieldsOf(lexicon.type(typesOf(rule)[0] ?? ''));
  if (kind === 'changed')
    return (
      <>
        <FieldSet
          keys={start.changed ?? []}
          fields={own}
          label="+ field"
          onKeys={(changed) => {
            const { from: _, to: __, ...rest } = start;
            if (changed.length > 0) onChange(changed.length > 1 ? { ...rest, changed } : { ...start, changed });
          }}
        />
        {start.changed?.length === 1 &&
          (['from', 'to'] as const).map((end) => (
            <label key={end} className="mb-2 flex items-center gap-2">
              <span className="w-12">{end}</span>
              <FormulaInput
                value={start[end] === undefined ? '' : String(start[end])}
                placeholder="anything"
                dialect="unaryTests"
                label={`${end} what`}
                mistake={mistake(end)}
                onKeep={(text) => {
                  const { [end]: _, ...rest } = start;
                  onChange(text === '' ? rest : { ...rest, [end]: text });
                }}
              />
            </label>
          ))}
        {start.changed?.length === 1 && (
          <p className="soft mb-2 text-[12.5px]">
            Tests, such as <span className="mono">"closed"</span> or <span className="mono">&gt; 4</span>.
          </p>
        )}
      </>
    );
  if (kind === 'answered')
    return (
      <label className="mb-2 flex items-center gap-2">
        <span>the call</span>
        <InPlaceText
          value={start.answered ?? ''}
          label="Key of the call"
          className="mono flex-1"
          onKeep={(answered) => onChange({ answered })}
        />
      </label>
    );
  if (kind === 'at')
    return (
      <>
        <label className="mb-1 flex items-center gap-2">
          <span className="w-12">when</span>
          <InPlaceText
            value={start.at ?? ''}
            label="Schedule"
            className="mono flex-1"
            onKeep={(at) => onChange({ ...start, at })}
          />
        </label>
        <p className="soft mb-2 text-[12.5px]">
          {saySchedule(start.at ?? '')}. Minute, hour, day, month, weekday, on the desk's clock.
        </p>
        {mistake('at') && <p className="mb-2 text-[13px] text-red">✕ {mistake('at')?.detail}</p>}
        <p className="mb-2 flex flex-wrap gap-2">
          {TIMES.map(([cron, words]) => (
            <button
              key={cron}
              type="button"
              className="link text-[13px]"
              onClick={() => onChange({ ...start, at: cron })}
            >
              {words}
            </button>
          ))}
        </p>
        <label className="mb-2 flex items-center gap-2">
          <span className="w-12">for</span>
          <FormulaInput
            value={start.for === undefined ? '' : String(start.for)}
            placeholder="every record"
            label="For which records"
            world={world}
            mistake={mistake('for')}
            onKeep={(text) => {
              const { for: _, ...rest } = start;
              onChange(text === '' ? rest : { ...rest, for: text });
            }}
          />
        </label>
      </>
    );
  if (kind === 'by_hand') {
    const hand = start.by_hand ?? {};
    const role = (hand.roles ?? ['agent'])[0] ?? 'agent';
    return (
      <>
        <label className="mb-3 flex items-center gap-2">
          <span>by who is at least</span>
          <select
            className="field"
            aria-label="Role that may start it"
            value={role}
            onChange={(e) => onChange({ by_hand: { ...hand, roles: [e.target.value] } })}
          >
            {ROLES.map((r) => (
              <option key={r}>{r}</option>
            ))}
          </select>
        </label>
        <h2 className="mb-1">Asked first</h2>
        <Questions
          ask={hand.ask ?? []}
          lexicon={lexicon}
          onAsk={(ask) => {
            const { ask: _, ...rest } = hand;
            onChange({ by_hand: ask.length > 0 ? { ...rest, ask } : rest });
          }}
        />
      </>
    );
  }
  if (kind === 'related') {
    const to = lexicon.field(typesOf(rule), start.related ?? '')?.to;
    return (
      <>
        <p className="mb-1">a change of its {lexicon.label(typesOf(rule), start.related ?? '').toLowerCase()}, in</p>
        <FieldSet
          keys={start.changed ?? []}
          fields={fieldsOf(lexicon.type(to ?? ''))}
          label={(start.changed ?? []).length === 0 ? 'any field …' : '+ field'}
          onKeys={(changed) => {
            const { changed: _, ...rest } = start;
            onChange(changed.length > 0 ? { ...rest, changed } : rest);
          }}
        />
      </>
    );
  }
  return (
    <p className="mb-2 max-w-[40ch]">
      A message is <span className="mono">event.message</span> with from, subject, text and html. One that opens a
      ticket starts what starts on creation, too.
    </p>
  );
}

const REPEATS: [string, string][] = [
  ['each', 'each time'],
  ['becomes_true', 'when it becomes so'],
  ['once', 'once for each record'],
];

/** What makes the rule look, and how often it acts on the same record. */
export function Starts({
  edited,
  look,
  createdBy,
  type,
  lexicon,
  world,
}: {
  edited: EditedPart<RuleTree>;
  look: RuleTrace | undefined;
  createdBy: string;
  type: string;
  lexicon: Lexicon;
  world: World;
}) {
  const { tree, edit, errors } = edited;
  const isBuilder = useMay('builder');
  const fields = settable(lexicon.type(typesOf(tree)[0] ?? ''));
  const all = fieldsOf(lexicon.type(typesOf(tree)[0] ?? ''));
  const add = (start: StartTree) => edit({ ...tree, starts: [...tree.starts, start] });
  const has = (kind: string) => tree.starts.some((s) => startKind(s) === kind);
  const m = look ? mark(look.status) : null;
  return (
    <Line
      title="Starts on"
      margin={
        look && m ? (
          <span className="flex justify-between gap-2">
            <span>
              due: {look.why.kind === 'created' ? createdBy : sayWhy(look.why, type, lexicon)}
              {look.skipped && <span className="soft block">{look.skipped}</span>}
            </span>
            <span title={m.words} className={m.tone}>
              {m.sign}
            </span>
          </span>
        ) : (
          <span className="soft">· not due in this step</span>
        )
      }
    >
      {tree.starts.map((start, i) => (
        <span key={JSON.stringify(start)} className="flex items-center gap-2.5">
          {i > 0 && <span className="soft">or</span>}
          <Popover.Root>
            <Popover.Trigger
              className={`chip max-w-[420px] text-left ${[...errors.keys()].some((p) => p.startsWith(`/starts/${i}`)) ? 'text-red' : ''}`}
            >
              <StartWords start={start} rule={tree} lexicon={lexicon} />
            </Popover.Trigger>
            <Popover.Portal>
              <Popover.Content className="menu w-[380px] p-3!" align="start" sideOffset={4}>
                {typeof start !== 'string' && (
                  <StartEditor
                    start={start}
                    rule={tree}
                    lexicon={lexicon}
                    world={world}
                    mistake={(key) => errors.get(`/starts/${i}/${key}`)}
                    onChange={(next) => edit({ ...tree, starts: tree.starts.map((old, j) => (j === i ? next : old)) })}
                  />
                )}
                <button
                  type="button"
                  className="btn mt-2"
                  onClick={() => edit({ ...tree, starts: tree.starts.filter((_, j) => j !== i) })}
                >
                  Remove this start
                </button>
              </Popover.Content>
            </Popover.Portal>
          </Popover.Root>
        </span>
      ))}
      {isBuilder && (
        <PickMenu
          label="+ start"
          groups={[
            {
              entries: [
                ...(tree.starts.includes('created')
                  ? []
                  : [{ label: 'it is created', act: () => edit({ ...tree, starts: ['created', ...tree.starts] }) }]),
                ...(tree.starts.includes('deleted') ? [] : [{ label: 'it is deleted', act: () => add('deleted') }]),
                ...(has('received') ? [] : [{ label: 'a message comes in', act: () => add({ received: 'message' }) }]),
                { label: 'a call comes back', act: () => add({ answered: 'call' }) },
                { label: 'at times', act: () => add({ at: '0 7 * * 1-5' }) },
                ...(has('by_hand') ? [] : [{ label: 'by hand', act: () => add({ by_hand: { roles: ['agent'] } }) }]),
              ],
            },
            { title: 'a change of', entries: fieldEntries(fields, (key) => add({ changed: [key] })) },
            {
              title: 'a change of the record in',
              entries: fieldEntries(
                all.filter((f) => f.type === 'reference' || f.type === 'references'),
                (key) => add({ related: key }),
              ),
            },
          ]}
        />
      )}
      <label className="soft ml-auto text-[13px]">
        acts{' '}
        <select
          className="max-w-[170px] bg-transparent"
          aria-label="How often it acts"
          value={tree.repeat ?? 'each'}
          onChange={(e) => {
            const { repeat: _, ...rest } = tree;
            edit(e.target.value === 'each' ? rest : { ...rest, repeat: e.target.value as 'becomes_true' | 'once' });
          }}
        >
          {REPEATS.map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </select>
      </label>
    </Line>
  );
}
