import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { type ReactNode, useEffect, useRef, useState } from 'react';
import { api, type ConditionPart, type InputError, Problem } from '../../api/client';
import { resolve, type World } from '../complete';
import { FormulaInput } from '../FormulaInput';
import { placeOf } from '../feel';
import { counting, isComplete, type Leaf, leaves, replaced, TESTS, testsFor, withTest } from './lines';
import { PathPicker } from './PathPicker';
import { ValuePicker } from './ValuePicker';

interface Props {
  /** Empty when there is no condition. */
  formula: string;
  label: string;
  world: World;
  /** Whose fields stand bare, as in "Fault". */
  own: string;
  mistake: InputError | undefined;
  onTyping: (formula: string | null) => void;
  onKeep: (formula: string) => void;
}

const JOINS: Record<string, string> = {
  all: 'all of these hold',
  any: 'any of these holds',
  none: 'none of these holds',
};

/** A condition: lines in groups, or its formula. Both are the same tree, and what one shows the other has. */
export function ConditionEditor(props: Props) {
  const { formula, label, onKeep } = props;
  const [asFormula, setAsFormula] = useState(() => localStorage.getItem('conditions as') === 'formula');
  const lines = useLines(formula, props.world, onKeep);
  const show = (which: boolean) => {
    localStorage.setItem('conditions as', which ? 'formula' : 'lines');
    setAsFormula(which);
  };
  const cannot = lines.why !== null;
  const plain = asFormula || cannot;
  return (
    <div className="flex w-full items-start gap-3" data-test="condition">
      <div className="min-w-0 flex-1">
        {plain || !lines.group ? (
          <FormulaInput
            value={formula}
            placeholder="always"
            label={label}
            wide
            mistake={props.mistake}
            world={props.world}
            onTyping={props.onTyping}
            onKeep={onKeep}
          />
        ) : (
          <Group {...props} part={lines.group} at={[]} edit={lines.edit} leaf={lines.leafResult} isTop />
        )}
        {!plain && lines.problem && (
          <p role="alert" className="text-[12.5px] text-red">
            ✕ {lines.problem}
          </p>
        )}
        {!plain && !lines.problem && props.mistake && (
          <p role="alert" className="text-[12.5px] text-red">
            ✕ {props.mistake.detail}
          </p>
        )}
      </div>
      <fieldset className="flex shrink-0 border border-line" aria-label={`${label}: shown as`}>
        {(['lines', 'formula'] as const).map((which) => (
          <button
            key={which}
            type="button"
            className={`px-2 text-[12.5px] ${plain === (which === 'formula') ? 'bg-ink text-paper' : 'soft'}`}
            aria-label={which === 'lines' ? 'as lines' : 'as a formula'}
            aria-pressed={plain === (which === 'formula')}
            disabled={which === 'lines' && cannot}
            title={which === 'lines' && cannot ? (lines.why ?? '') : undefined}
            onClick={() => show(which === 'formula')}
          >
            {which}
          </button>
        ))}
      </fieldset>
    </div>
  );
}

/** The lines of a formula, and edits of them on their way back to the formula. */
function useLines(formula: string, world: World, onKeep: (formula: string) => void) {
  const [group, setGroup] = useState<ConditionPart | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  // the formula that the group stands for; while an edit is under way the formula of that edit is not known yet
  const standsFor = useRef<string | null>(null);
  const latest = useRef(0);
  const read = useQuery({
    queryKey: ['lines', formula],
    queryFn: () => api.lines({ formula }),
    enabled: formula !== '',
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  const answer = read.data;
  useEffect(() => {
    if (standsFor.current === formula) return;
    if (formula === '') {
      standsFor.current = '';
      setGroup({ join: 'all', parts: [] });
    } else if (answer) {
      standsFor.current = answer.lines ? formula : null;
      setGroup(answer.lines);
      setProblem(null);
    }
  }, [formula, answer]);

  const edit = async (next: ConditionPart) => {
    setGroup(next);
    const turn = ++latest.current;
    const counted = counting(next);
    if ((counted.parts ?? []).length === 0) {
      standsFor.current = '';
      setProblem(null);
      if (formula !== '') onKeep('');
      return;
    }
    try {
      const written = await api.lines({ lines: counted });
      if (turn !== latest.current) return;
      setProblem(null);
      standsFor.current = written.formula;
      if (written.lines) setGroup(placed(next, written.lines));
      if (written.formula !== formula) onKeep(written.formula);
    } catch (error) {
      if (turn === latest.current) setProblem(Problem.of(error).detail);
    }
  };
  const counted = group ? leaves(group).filter((l) => isComplete(l.part) && l.part.to !== undefined) : [];
  const source = standsFor.current ?? formula;
  const formulas = counted.map((l) => source.slice(placeOf(source, l.part.from ?? 0), placeOf(source, l.part.to ?? 0)));
  const { probe } = world;
  const results = useQuery({
    queryKey: ['probe', probe?.key, formulas],
    queryFn: () => probe?.ask(formulas) ?? [],
    enabled: formulas.length > 0,
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 30_000,
    retry: false,
  });
  const leafResult = (leaf: Leaf): unknown => {
    const found = results.data?.[counted.findIndex((l) => l.at.join() === leaf.at.join())];
    return found?.known ? found.value : undefined;
  };
  return {
    group,
    problem,
    edit,
    leafResult,
    why: formula !== '' && answer && standsFor.current !== formula ? answer.why : null,
  };
}

/** The lines as they stand, those that count with their new places in the formula. */
function placed(mine: ConditionPart, read: ConditionPart): ConditionPart {
  const places = leaves(read);
  let next = 0;
  const go = (part: ConditionPart): ConditionPart => {
    if (part.join !== undefined) return { ...part, parts: (part.parts ?? []).map(go) };
    if (!isComplete(part)) return part;
    const place = places[next++]?.part;
    return { ...part, from: place?.from ?? 0, to: place?.to ?? 0 };
  };
  return go(mine);
}

interface PartProps extends Props {
  part: ConditionPart;
  at: number[];
  edit: (whole: ConditionPart) => void;
  leaf: (leaf: Leaf) => unknown;
}

function Group(props: PartProps & { isTop?: boolean; whole?: ConditionPart }) {
  const { part, at, edit, isTop } = props;
  const whole = props.whole ?? part;
  const parts = part.parts ?? [];
  const put = (next: ConditionPart) => edit(replaced(whole, at, next));
  const [fresh, setFresh] = useState(false);
  const join = (
    <select
      className="field"
      aria-label={isTop ? `${props.label}: how lines are joined` : 'How this group is joined'}
      value={part.join}
      onChange={(event) => put({ ...part, join: event.target.value as 'all' | 'any' | 'none' })}
    >
      {Object.entries(JOINS).map(([key, words]) => (
        <option key={key} value={key}>
          {words}
        </option>
      ))}
    </select>
  );
  const add = (next: ConditionPart) => {
    setFresh(true);
    put({ ...part, parts: [...parts, next] });
  };
  const line = (): ConditionPart => ({ of: '', test: 'is', values: [] });
  const adding = (
    <>
      <button type="button" className="link" data-test={isTop ? 'add-line' : undefined} onClick={() => add(line())}>
        + line
      </button>
      {(parts.length > 0 || !isTop) && (
        <button
          type="button"
          className="link"
          onClick={() => add({ join: part.join === 'any' ? 'all' : 'any', parts: [line()] })}
        >
          + group
        </button>
      )}
    </>
  );
  return (
    <div className={isTop ? '' : 'border-l-2 border-line pl-3'} role="group" aria-label={JOINS[part.join ?? 'all']}>
      {(parts.length > 1 || !isTop || part.join === 'none') && (
        <div className="mb-1 flex items-center gap-3">
          {join}
          {!isTop && (
            <>
              <Verdict result={groupResult(props, part, at)} />
              {adding}
              <button
                type="button"
                className="soft"
                aria-label="Remove this group"
                onClick={() => edit(replaced(whole, at, null))}
              >
                ×
              </button>
            </>
          )}
        </div>
      )}
      <div className="flex flex-col gap-1">
        {parts.map((inner, i) => {
          const place = [...at, i];
          return inner.join !== undefined ? (
            <Group key={place.join()} {...props} isTop={false} whole={whole} part={inner} at={place} />
          ) : (
            <LineRow
              key={place.join()}
              {...props}
              part={inner}
              at={place}
              isFresh={fresh && i === parts.length - 1}
              onPart={(next) => {
                setFresh(false);
                edit(replaced(whole, place, next));
              }}
            />
          );
        })}
      </div>
      {isTop && (
        <div className="mt-1 flex items-center gap-3">
          {parts.length === 0 && <span className="soft">always</span>}
          {adding}
        </div>
      )}
    </div>
  );
}

/** What a group comes to, from what its lines came to: three values, as the language has them. */
function groupResult(props: PartProps, part: ConditionPart, at: number[]): unknown {
  const parts = part.parts ?? [];
  const found = parts.map((inner, i) => {
    const place = [...at, i];
    if (inner.join !== undefined) return groupResult(props, inner, place);
    return isComplete(inner) ? props.leaf({ at: place, part: inner }) : null;
  });
  if (found.length === 0 || found.includes(undefined)) return undefined;
  if (part.join === 'all') return found.includes(false) ? false : found.includes(null) ? null : true;
  const any = found.includes(true) ? true : found.includes(null) ? null : false;
  return part.join === 'any' || any === null ? any : !any;
}

function Verdict({ result }: { result: unknown }): ReactNode {
  if (result === undefined) return <span className="w-4" />;
  const [sign, tone, words] =
    result === true
      ? ['✓', 'text-teal', 'holds in the sample in hand']
      : result === false
        ? ['✗', 'text-red', 'does not hold in the sample in hand']
        : ['–', 'soft', 'cannot be known in the sample in hand, so it does not hold'];
  return (
    <span className={`w-4 text-center ${tone}`} title={words}>
      {sign}
      <span className="sr-only">{words}</span>
    </span>
  );
}

function LineRow({
  part,
  at,
  world,
  own,
  leaf,
  mistake,
  isFresh,
  onPart,
}: PartProps & { isFresh: boolean; onPart: (part: ConditionPart | null) => void }) {
  const complete = isComplete(part);
  const result = complete ? leaf({ at, part }) : undefined;
  const from = mistake?.from ?? null;
  const wrong =
    complete &&
    from !== null &&
    part.from !== undefined &&
    part.to !== undefined &&
    from >= part.from &&
    from < part.to;
  const remove = (
    <button type="button" className="soft" aria-label="Remove this line" onClick={() => onPart(null)}>
      ×
    </button>
  );
  const row = `flex flex-wrap items-center gap-2 ${wrong ? 'bg-redbg' : ''}`;
  if (part.formula !== undefined)
    return (
      <div className={row} data-test="line">
        <FormulaInput
          value={part.formula}
          label="A line that is a formula"
          world={world}
          wide
          onKeep={(formula) => onPart(formula === '' ? null : { formula })}
        />
        <Verdict result={result} />
        {remove}
      </div>
    );
  const path = part.of ?? '';
  const field = resolve(path, world);
  const isOwn = world.fields.some((f) => f.key === path);
  const fitting = testsFor(field, isOwn);
  const test = part.test ?? 'is';
  const count = TESTS[test]?.values;
  const label = field?.label ?? 'the line';
  return (
    <div className={row} data-test="line">
      <PathPicker
        path={path}
        world={world}
        own={own}
        label={path === '' ? 'Field of the new line' : `Field of this line: ${label}`}
        openAtOnce={isFresh && path === ''}
        onPick={(of) => {
          const next = testsFor(
            resolve(of, world),
            world.fields.some((f) => f.key === of),
          );
          const sameKind = resolve(of, world)?.type === field?.type && field !== undefined;
          onPart(
            sameKind
              ? { ...part, of, values: resolve(of, world)?.options ? [] : (part.values ?? []) }
              : { of, test: next[0] ?? 'is', values: [] },
          );
        }}
      />
      <select
        className="field"
        aria-label={`Test of ${label}`}
        value={test}
        onChange={(event) => onPart(withTest(part, event.target.value))}
      >
        {[...new Set([...fitting, test])].map((key) => (
          <option key={key} value={key}>
            {TESTS[key]?.words ?? key}
          </option>
        ))}
      </select>
      {count !== 0 && path !== '' && (
        <ValuePicker
          values={part.values ?? []}
          count={count ?? null}
          field={field}
          world={world}
          label={`Value for ${label}`}
          onValues={(values) => onPart({ ...part, values })}
        />
      )}
      {!complete && path !== '' && <span className="text-[12.5px] text-ochre">counts once it has a value</span>}
      <Verdict result={result} />
      {remove}
    </div>
  );
}
