import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Popover } from 'radix-ui';
import { type KeyboardEvent, useEffect, useRef, useState } from 'react';
import { api, type InputError, Problem, type TextPart } from '../../api/client';
import type { World } from '../complete';
import { PathPicker, sayPath } from '../condition/PathPicker';
import { FormulaText } from '../FormulaText';
import { moved, partOf, said } from './parts';

interface Props {
  /** The formula to start from; - for none. */
  start: string;
  own: string;
  world: World;
  mistake: InputError | undefined;
  onTyping: (formula: string) => void;
  onKeep: (formula: string) => void;
  onLeave: () => void;
}

/** A text put together: free text and fields side by side, with what it comes to in the sample in hand. */
export function Composer({ start, own, world, mistake, onTyping, onKeep, onLeave }: Props) {
  const read = useQuery({
    queryKey: ['text', start],
    queryFn: () => api.text({ formula: start === '-' ? '""' : start }),
    retry: false,
  });
  const [parts, setParts] = useState<TextPart[] | null>(null);
  const [formula, setFormula] = useState(start);
  const [problem, setProblem] = useState<string | null>(null);
  const [fresh, setFresh] = useState<number | null>(0);
  const turn = useRef(0);
  const sure = read.data;
  useEffect(() => {
    if (sure?.parts) setParts(sure.parts);
  }, [sure]);
  const { probe } = world;
  const result = useQuery({
    queryKey: ['probe', probe?.key, formula],
    queryFn: () => probe?.ask([formula]) ?? [],
    enabled: formula !== '-',
    placeholderData: keepPreviousData,
    retry: false,
  });
  const change = async (next: TextPart[]) => {
    setParts(next);
    const mine = ++turn.current;
    const list = said(next);
    try {
      const written = list.length === 0 ? '-' : (await api.text({ parts: list })).formula;
      if (mine !== turn.current) return;
      setProblem(null);
      setFormula(written);
      onTyping(written);
    } catch (error) {
      if (mine === turn.current) setProblem(Problem.of(error).detail);
    }
  };
  const keys = (event: KeyboardEvent) => {
    event.stopPropagation();
    // what opens over the composer has keys of its own
    if (!(event.target instanceof Node && event.currentTarget.contains(event.target))) return;
    if (event.key === 'Enter' && (event.ctrlKey || event.target instanceof HTMLInputElement)) {
      event.preventDefault();
      onKeep(formula);
    }
  };
  if (read.isError || (sure && sure.parts === null))
    return (
      <div className="p-3">
        <p>This formula is more than a text put together, so it is edited as a formula.</p>
        <button type="button" className="btn mt-2" onClick={onLeave}>
          To the formula
        </button>
      </div>
    );
  if (!parts) return <div className="soft p-3">Reading the text …</div>;
  const put = (i: number, part: TextPart | null) =>
    change(parts.flatMap((old, j) => (j === i ? (part ? [part] : []) : [old])));
  const add = (part: TextPart) => {
    setFresh(parts.length);
    change([...parts, part]);
  };
  const seen = result.data?.[0];
  return (
    <div className="p-3" onKeyDown={keys} data-test="composer">
      <div
        className="flex flex-wrap items-center gap-1 border border-line bg-paper p-1.5"
        role="group"
        aria-label="Parts"
      >
        {parts.map((part, i) =>
          part.of === undefined ? (
            <TextField
              key={i}
              text={part.text ?? ''}
              isFresh={fresh === i}
              onText={(text) => put(i, { text })}
              onRemove={() => put(i, null)}
              onMove={(by) => {
                setFresh(i + by);
                change(moved(parts, i, by));
              }}
            />
          ) : (
            <FieldPart
              key={i}
              part={part}
              world={world}
              own={own}
              onPart={(next) => put(i, next)}
              onMove={(by) => change(moved(parts, i, by))}
            />
          ),
        )}
        <button type="button" className="link px-1" onClick={() => add({ text: '' })}>
          + text
        </button>
        <PathPicker
          path=""
          world={world}
          own={own}
          label="Add a field"
          invite="+ field"
          onPick={(path) => add(partOf(path, world))}
        />
      </div>
      <div className="mt-2 grid grid-cols-[88px_minmax(0,1fr)] gap-x-2 gap-y-1 text-[13px]">
        <span className="soft">in the sample</span>
        <span data-test="composed" aria-live="polite">
          {seen?.known && formula !== '-' ? (
            seen.value === null ? (
              <span className="text-ochre">empty, because a part of it is empty</span>
            ) : (
              <span className="now whitespace-pre-wrap">{String(seen.value)}</span>
            )
          ) : (
            <span className="soft">
              {formula === '-' ? 'no text yet' : 'this step of the sample in hand has no such record'}
            </span>
          )}
        </span>
        <span className="soft">kept as</span>
        <FormulaText text={formula} />
      </div>
      {(problem ?? mistake?.detail) && (
        <p role="alert" className="mt-1 text-[13px] text-red">
          ✕ {problem ?? mistake?.detail}
        </p>
      )}
      <div className="mt-3 flex items-center gap-3">
        <button type="button" className="btn btn-main" onClick={() => onKeep(formula)}>
          Keep this text
        </button>
        <button type="button" className="btn" onClick={onLeave}>
          Leave it as it was
        </button>
        <span className="soft ml-auto text-[12.5px]">
          <span className="key">Alt ←</span> <span className="key">Alt →</span> move a part
        </span>
      </div>
    </div>
  );
}

/** Moves a part with Alt and an arrow; Backspace in an empty one removes it. */
function movingKeys(event: KeyboardEvent, onMove: (by: number) => void): boolean {
  if (!event.altKey || (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight')) return false;
  event.preventDefault();
  onMove(event.key === 'ArrowLeft' ? -1 : 1);
  return true;
}

function TextField({
  text,
  isFresh,
  onText,
  onRemove,
  onMove,
}: {
  text: string;
  isFresh: boolean;
  onText: (text: string) => void;
  onRemove: () => void;
  onMove: (by: number) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (isFresh) input.current?.focus();
  }, [isFresh]);
  return (
    <input
      ref={input}
      className="compose-text"
      aria-label="Text"
      placeholder="text"
      value={text}
      onChange={(event) => onText(event.target.value)}
      onKeyDown={(event) => {
        if (movingKeys(event, onMove)) return;
        if (event.key === 'Backspace' && text === '') {
          event.preventDefault();
          onRemove();
        }
      }}
    />
  );
}

function FieldPart({
  part,
  world,
  own,
  onPart,
  onMove,
}: {
  part: TextPart;
  world: World;
  own: string;
  onPart: (part: TextPart | null) => void;
  onMove: (by: number) => void;
}) {
  const path = part.of ?? '';
  const isLeftOut = part.empty === 'nothing';
  const side = (which: 'before' | 'after') => (
    <label className="flex items-center gap-2">
      <span className="soft w-[84px]">{which === 'before' ? 'text before it' : 'text after it'}</span>
      <input
        className="field w-[150px]"
        value={part[which] ?? ''}
        placeholder="none"
        onChange={(event) => onPart({ ...part, [which]: event.target.value })}
      />
    </label>
  );
  return (
    <Popover.Root>
      <Popover.Trigger
        className="compose-field"
        title={path}
        onKeyDown={(event) => {
          if (movingKeys(event, onMove)) return;
          if (event.key === 'Backspace' || event.key === 'Delete') onPart(null);
        }}
      >
        {isLeftOut && part.before && <span className="soft">{part.before}</span>}
        <b className="font-[650]">{sayPath(path, world) ?? <span className="mono">{path}</span>}</b>
        {isLeftOut && part.after && <span className="soft">{part.after}</span>}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="menu w-[300px] p-3!" align="start" sideOffset={3}>
          <div className="flex flex-col gap-2">
            <PathPicker
              path={path}
              world={world}
              own={own}
              label="Field of this part"
              onPick={(to) => onPart({ ...partOf(to, world), empty: part.empty ?? 'nothing' })}
            />
            <label className="flex flex-col gap-1">
              <span className="soft">when it is empty</span>
              <select
                className="field"
                value={isLeftOut ? 'nothing' : 'all'}
                onChange={(event) => onPart({ ...part, empty: event.target.value as 'all' | 'nothing' })}
              >
                <option value="nothing">leave it out, and the texts around it</option>
                <option value="all">the whole text is empty</option>
              </select>
            </label>
            {isLeftOut && side('before')}
            {isLeftOut && side('after')}
            <button type="button" className="btn self-start" onClick={() => onPart(null)}>
              Remove this part
            </button>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
