import type { RuleTrace } from '../../api/client';
import {
  type Cell,
  fieldsOf,
  type LookUpKind,
  type LookUpTree,
  lookUpKind,
  lookUpType,
  MEASURES,
  type RuleTree,
} from '../../api/trees';
import type { Lexicon } from '../../app/lexicon';
import type { EditedPart } from '../../app/usePart';
import type { World } from '../../parts/complete';
import { FormulaInput } from '../../parts/FormulaInput';
import { InPlaceText } from '../../parts/InPlaceText';
import { Line } from './Line';

const KINDS: [LookUpKind, string][] = [
  ['value', 'the value of'],
  ['first', 'the first'],
  ['all', 'all'],
  ['count', 'the number of'],
  ['sum', 'the sum over'],
  ['average', 'the average over'],
  ['min', 'the least over'],
  ['max', 'the greatest over'],
  ['distinct', 'how many different over'],
];

/** The same look-up of another kind: what still means something stays. */
function asKind(l: LookUpTree, kind: LookUpKind, lexicon: Lexicon): LookUpTree {
  const base: LookUpTree = { name: l.name, ...(l.none === undefined ? {} : { none: l.none }) };
  if (kind === 'value') return { ...base, value: 'null' };
  const type = lookUpType(l) ?? lexicon.allTypes().find((t) => t.kind === 'register')?.key ?? '';
  const name = lexicon.type(type)?.name_field ?? 'title';
  const number = fieldsOf(lexicon.type(type)).find((f) => f.type === 'number' || f.type === 'percent')?.key;
  return {
    ...base,
    [kind]: type,
    ...(l.where === undefined ? {} : { where: l.where }),
    ...(kind === 'first' ? { order: l.order ?? name } : kind === 'all' && l.order ? { order: l.order } : {}),
    ...((MEASURES as readonly string[]).includes(kind) && kind !== 'count' ? { field: l.field ?? number ?? name } : {}),
  };
}

/** What was found, how many and which. */
function Found({ look, l, lexicon }: { look: RuleTrace | undefined; l: LookUpTree; lexicon: Lexicon }) {
  const found = look?.look_ups.find((f) => f.name === l.name);
  if (!found)
    return (
      <p className="leading-[30px]">
        <span className="mono">{l.name}</span> <span className="soft">not read</span>
      </p>
    );
  const kind = lookUpKind(l);
  const ids = found.records ?? [];
  const words = lexicon.guess(found.value);
  return (
    <div className="py-1" data-test={`found-${l.name}`}>
      <span className="mono">{l.name}</span>{' '}
      {kind === 'all' ? (
        <b>{found.found === 0 ? 'none' : found.found}</b>
      ) : (
        <b className={found.none ? 'text-ochre' : ''}>{words}</b>
      )}{' '}
      {kind === 'value' && typeof found.value === 'string' && words !== found.value && (
        <span className="mono soft">{found.value}</span>
      )}
      {kind !== 'value' && (
        <span className="soft">
          {kind === 'first' && found.found > 1 ? `of ${found.found} found` : ''}
          {kind !== 'first' && kind !== 'all' ? `over ${found.found}` : ''}
          {ids.length > 0 && (
            <span className="block truncate" title={ids.join(', ')}>
              {ids
                .slice(0, 3)
                .map((id) => (lexicon.guess(id) === id ? id : `${lexicon.guess(id)} ${id}`))
                .join(', ')}
              {found.found > 3 && ' …'}
            </span>
          )}
        </span>
      )}
      {found.none && found.none !== 'null' && (
        <span className="text-ochre"> nothing found: {found.none.replace('_', ' ')}</span>
      )}
      {found.several && <span className="text-ochre"> several found: {found.several.replace('_', ' ')}</span>}
    </div>
  );
}

function Select({
  label,
  value,
  options,
  onPick,
}: {
  label: string;
  value: string;
  options: [string, string][];
  onPick: (value: string) => void;
}) {
  return (
    <select className="field" aria-label={label} value={value} onChange={(e) => onPick(e.target.value)}>
      {options.map(([key, words]) => (
        <option key={key} value={key}>
          {words}
        </option>
      ))}
    </select>
  );
}

export function LookUps({
  edited,
  look,
  lexicon,
  world,
  scans,
}: {
  /** Look-ups that have to read every record of their type. */
  scans: string[];
  edited: EditedPart<RuleTree>;
  look: RuleTrace | undefined;
  lexicon: Lexicon;
  world: World;
}) {
  const { tree, edit, typing, errors } = edited;
  const list = tree.look_ups ?? [];
  const put = (i: number, lookUp: LookUpTree | null): RuleTree => {
    const look_ups = list.flatMap((old, j) => (j === i ? (lookUp ? [lookUp] : []) : [old]));
    const { look_ups: _, ...rest } = tree;
    return look_ups.length > 0 ? { ...rest, look_ups } : rest;
  };
  return (
    <Line title="Looks up" margin={list.map((l) => <Found key={l.name} look={look} l={l} lexicon={lexicon} />)}>
      {list.map((l, i) => {
        const kind = lookUpKind(l);
        const type = lookUpType(l);
        const none = l.none === undefined || l.none === null ? 'null' : typeof l.none === 'string' ? l.none : 'use';
        const set = (more: Partial<LookUpTree>, drop?: keyof LookUpTree): LookUpTree => {
          const next = { ...l, ...more };
          if (drop) delete next[drop];
          return next;
        };
        const inside: World = type
          ? {
              ...world,
              fields: [...fieldsOf(lexicon.type(type)), { key: 'record', label: 'The record', type: 'text' }],
            }
          : world;
        const problem = [...errors.entries()].find(
          ([pointer]) =>
            pointer === `/look_ups/${i}` || pointer === `/look_ups/${i}/name` || pointer === `/look_ups/${i}/field`,
        )?.[1];
        return (
          <div
            key={i}
            className="w-full border-b border-faint pb-1.5 last-of-type:border-0"
            data-test={`look-up-${l.name}`}
          >
            <div className="flex flex-wrap items-center gap-2">
              <InPlaceText
                value={l.name}
                label="Name of the look-up"
                className="mono w-[96px] font-semibold"
                onKeep={(name) => edit(put(i, { ...l, name }))}
              />
              <span className="soft">is</span>
              <Select
                label={`Kind of ${l.name}`}
                value={kind}
                options={KINDS}
                onPick={(next) => edit(put(i, asKind(l, next as LookUpKind, lexicon)))}
              />
              {type === undefined ? (
                <FormulaInput
                  value={String(l.value)}
                  label={`Value of ${l.name}`}
                  mistake={errors.get(`/look_ups/${i}/value`)}
                  world={world}
                  onTyping={(text) => typing(text === null ? null : put(i, { ...l, value: text }))}
                  onKeep={(text) => edit(put(i, { ...l, value: text }))}
                />
              ) : (
                <>
                  <Select
                    label={`Type that ${l.name} looks into`}
                    value={type}
                    options={lexicon.allTypes().map((t) => [t.key, t.title.toLowerCase()])}
                    onPick={(next) => edit(put(i, set({ [kind]: next })))}
                  />
                  {l.field !== undefined && (
                    <Select
                      label={`Field that ${l.name} measures`}
                      value={l.field}
                      options={fieldsOf(lexicon.type(type)).map((f) => [f.key, f.label.toLowerCase()])}
                      onPick={(field) => edit(put(i, set({ field })))}
                    />
                  )}
                  <span className="soft">where</span>
                  <FormulaInput
                    value={l.where === undefined ? '' : String(l.where)}
                    label={`Criteria of ${l.name}`}
                    placeholder="every one"
                    mistake={errors.get(`/look_ups/${i}/where`)}
                    world={inside}
                    onTyping={(text) =>
                      typing(
                        text === null ? null : put(i, text === '' ? set({}, 'where') : set({ where: text as Cell })),
                      )
                    }
                    onKeep={(text) => edit(put(i, text === '' ? set({}, 'where') : set({ where: text })))}
                  />
                </>
              )}
              <button
                type="button"
                className="soft ml-auto"
                aria-label={`Remove ${l.name}`}
                onClick={() => edit(put(i, null))}
              >
                ×
              </button>
            </div>
            <div className="mt-1 flex flex-wrap items-center gap-2 pl-[104px] text-[13px]">
              {(kind === 'first' || kind === 'all') && (
                <>
                  <span className="soft">in order of</span>
                  <InPlaceText
                    value={l.order ?? ''}
                    label={`Order of ${l.name}`}
                    placeholder="as numbered"
                    className="mono w-[150px]"
                    onKeep={(order) => edit(put(i, order === '' ? set({}, 'order') : set({ order })))}
                  />
                </>
              )}
              <span className="soft">none found:</span>
              <Select
                label={`When ${l.name} finds nothing`}
                value={none}
                options={[
                  ['null', kind === 'all' ? 'an empty list' : 'leave empty'],
                  ['skip_rule', 'skip the rule'],
                  ['problem', 'report a problem'],
                  ['use', 'use instead …'],
                ]}
                onPick={(next) =>
                  edit(
                    put(i, next === 'null' ? set({}, 'none') : set({ none: next === 'use' ? { use: 'null' } : next })),
                  )
                }
              />
              {typeof l.none === 'object' && l.none !== null && (
                <FormulaInput
                  value={String(l.none.use)}
                  label={`Instead of ${l.name}`}
                  mistake={errors.get(`/look_ups/${i}/none/use`)}
                  world={world}
                  onKeep={(text) => edit(put(i, set({ none: { use: text } })))}
                />
              )}
              {kind === 'first' && (
                <>
                  <span className="soft">several found:</span>
                  <Select
                    label={`When ${l.name} finds several`}
                    value={l.several ?? 'first'}
                    options={[
                      ['first', 'take the first'],
                      ['skip_rule', 'skip the rule'],
                      ['problem', 'report a problem'],
                    ]}
                    onPick={(several) => edit(put(i, several === 'first' ? set({}, 'several') : set({ several })))}
                  />
                </>
              )}
              {type !== undefined && scans.includes(l.name) && (
                <span className="text-ochre" title="No part of the criteria can be answered from an index.">
                  ⚠ reads every {lexicon.type(type)?.title.toLowerCase() ?? type}
                </span>
              )}
            </div>
            {problem && <p className="pl-[104px] text-[13px] text-red">✕ {problem.detail}</p>}
          </div>
        );
      })}
      <button
        type="button"
        className="link"
        onClick={() => {
          let n = 1;
          while (list.some((l) => l.name === `found${n}`)) n++;
          edit({ ...tree, look_ups: [...list, { name: `found${n}`, value: 'null' }] });
        }}
      >
        + look-up
      </button>
    </Line>
  );
}
