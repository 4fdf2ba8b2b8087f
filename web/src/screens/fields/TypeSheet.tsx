import { useState } from 'react';
import { Link } from 'react-router';
import type { TypeTree } from '../../api/trees';
import { useKeys } from '../../app/keys';
import { type EditedPart, usePart } from '../../app/usePart';
import { useWorkshop } from '../../app/workshop';
import { Conflict } from '../../parts/Conflict';
import { ProblemNote } from '../../parts/ProblemNote';
import { keyFrom } from '../NewRuleDialog';
import { Arrows } from './Arrows';
import { MovesDiagram } from './MovesDiagram';
import { Label } from './Options';

const ROLES = ['requester', 'agent', 'builder', 'publisher', 'administrator'];

type Moves = NonNullable<TypeTree['moves']>;

/** Moves by from, to and the least role; one entry of the format for each from and role. */
function regrouped(moves: Map<string, string>, states: { key: string }[]): Moves {
  const found: Moves = [];
  for (const from of states)
    for (const role of ROLES) {
      const to = states.filter((s) => moves.get(`${from.key} ${s.key}`) === role).map((s) => s.key);
      if (to.length > 0) found.push({ from: from.key, to, ...(role === 'agent' ? {} : { roles: [role] }) });
    }
  return found;
}

function States({ edited }: { edited: EditedPart<TypeTree> }) {
  const { tree } = edited;
  const states = tree.states ?? [];
  const [label, setLabel] = useState('');
  const allowed = new Map<string, string>();
  for (const move of tree.moves ?? [])
    for (const to of move.to) {
      const least = [...(move.roles ?? ['agent'])].sort((a, b) => ROLES.indexOf(a) - ROLES.indexOf(b))[0] ?? 'agent';
      const known = allowed.get(`${move.from} ${to}`);
      allowed.set(`${move.from} ${to}`, known && ROLES.indexOf(known) < ROLES.indexOf(least) ? known : least);
    }
  const put = (next: TypeTree['states']) => edited.edit({ ...tree, states: next ?? [] });
  const setMove = (from: string, to: string, role: string) => {
    const next = new Map(allowed);
    if (role === '') next.delete(`${from} ${to}`);
    else next.set(`${from} ${to}`, role);
    edited.edit({ ...tree, moves: regrouped(next, states) });
  };
  return (
    <>
      <h2 className="mt-4 mb-1">States, a new one takes the first</h2>
      {states.map((state, i) => (
        <div key={state.key} className="flex items-center gap-2 py-0.5" data-test={`state-${state.key}`}>
          <Label
            value={state.label}
            label={`Label of ${state.key}`}
            onKeep={(next) => next && put(states.map((s, j) => (i === j ? { ...s, label: next } : s)))}
          />
          <span className="mono soft">{state.key}</span>
          <span className="flex-1" />
          <label className="text-[13px] whitespace-nowrap">
            <input
              type="checkbox"
              checked={state.open}
              onChange={(e) => put(states.map((s, j) => (i === j ? { ...s, open: e.target.checked } : s)))}
            />{' '}
            open
          </label>
          <Arrows list={states} at={i} what={state.label} onMove={put} />
        </div>
      ))}
      <form
        className="mt-1 flex gap-1"
        onSubmit={(e) => {
          e.preventDefault();
          if (label.trim())
            put([
              ...states,
              {
                key: keyFrom(
                  label,
                  states.map((s) => s.key),
                ),
                label: label.trim(),
                open: true,
              },
            ]);
          setLabel('');
        }}
      >
        <input
          className="field flex-1"
          placeholder="Another state"
          aria-label="New state"
          value={label}
          onChange={(e) => setLabel(e.target.value)}
        />
        <button type="submit" className="btn" disabled={label.trim() === ''}>
          Add
        </button>
      </form>
      <h2 className="mt-4 mb-1">Moves</h2>
      <MovesDiagram type={tree} />
      {tree.moves ? (
        <div className="mt-2 overflow-x-auto">
          <table className="text-[12.5px]" data-test="moves">
            <thead>
              <tr>
                <th className="pr-2 text-left font-semibold">from \ to</th>
                {states.map((s) => (
                  <th key={s.key} className="px-1 text-left font-semibold">
                    {s.label}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {states.map((from) => (
                <tr key={from.key}>
                  <th className="pr-2 text-left font-normal whitespace-nowrap">{from.label}</th>
                  {states.map((to) => (
                    <td key={to.key} className="p-0.5">
                      {from.key === to.key ? (
                        <span className="soft px-2">·</span>
                      ) : (
                        <select
                          className="field w-[78px] px-1! text-[12px]"
                          aria-label={`From ${from.label} to ${to.label}`}
                          value={allowed.get(`${from.key} ${to.key}`) ?? ''}
                          onChange={(e) => setMove(from.key, to.key, e.target.value)}
                        >
                          <option value="">–</option>
                          {ROLES.map((role) => (
                            <option key={role} value={role}>
                              {role}
                            </option>
                          ))}
                        </select>
                      )}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          <p className="soft mt-1 text-[13px]">
            A role may do what those before it may. Rules move by the same moves, whatever the role.
          </p>
          <button
            type="button"
            className="link mt-1"
            onClick={() => {
              const { moves: _, ...rest } = tree;
              edited.edit(rest as TypeTree);
            }}
          >
            Allow every move
          </button>
        </div>
      ) : (
        <p className="mt-1">
          Every move is allowed.{' '}
          <button
            type="button"
            className="link"
            onClick={() =>
              edited.edit({
                ...tree,
                moves: states.map((s) => ({
                  from: s.key,
                  to: states.filter((o) => o.key !== s.key).map((o) => o.key),
                })),
              })
            }
          >
            Say which ones
          </button>
        </p>
      )}
    </>
  );
}

function Sheet({ edited }: { edited: EditedPart<TypeTree> }) {
  const { lexicon } = useWorkshop();
  const { tree } = edited;
  useKeys({ 'Ctrl+z': edited.undo, 'Ctrl+Shift+z': edited.redo });
  const texts = tree.fields.filter((f) => f.type === 'text');
  return (
    <section className="overflow-auto border-l border-ink bg-sheet px-4 py-3" data-test="type-sheet">
      <div className="flex items-center gap-2">
        <Label
          value={tree.title}
          label="Title of the type"
          onKeep={(title) => title && edited.edit({ ...tree, title })}
        />
        <span className="mono soft">{tree.key}</span>
        <span className="flex-1" />
        <span className="soft text-[13px]">{edited.status}</span>
      </div>
      <ProblemNote problem={edited.note} />
      <p className="mt-2">
        {tree.kind === 'ticket' ? (
          <>
            A ticket type; its tickets are numbered{' '}
            <span className="mono">
              {tree.short}-1, {tree.short}-2, …
            </span>
          </>
        ) : (
          <>
            A register. A record is called by its{' '}
            <select
              className="field"
              aria-label="Name field"
              value={tree.name_field ?? ''}
              onChange={(e) => edited.edit({ ...tree, name_field: e.target.value })}
            >
              <option value="">id</option>
              {texts.map((f) => (
                <option key={f.key} value={f.key}>
                  {f.label}
                </option>
              ))}
            </select>
          </>
        )}
      </p>
      {tree.kind === 'register' && (
        <p className="mt-2">
          <Link to={`/registers/${tree.key}`} className="link">
            Its records
          </Link>
        </p>
      )}
      {tree.kind === 'ticket' && <States edited={edited} />}
      <p className="soft mt-4">
        Pick a field on the left to change it; its order, options, bounds and what requesters see are there.
      </p>
      <Conflict theirs={edited.conflict} mine={tree} who={(who) => lexicon.person(who)} onSettle={edited.settle} />
    </section>
  );
}

export function TypeSheet({ type }: { type: string }) {
  const edited = usePart<TypeTree>('types', type);
  if (!edited) return <section className="border-l border-ink bg-sheet p-6">There is no type “{type}”.</section>;
  return <Sheet edited={edited} />;
}
