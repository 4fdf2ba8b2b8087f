import type { TypeTree } from '../../api/trees';

const WIDE = 392;
const ROW = 46;
const BOX = 150;

/** The states down the page in order, and each allowed move as an arc: forward on the right, back on the left; a role is written where it is asked for. */
export function MovesDiagram({ type }: { type: TypeTree }) {
  const states = type.states ?? [];
  if (!type.moves || states.length === 0) return null;
  const at = new Map(states.map((state, i) => [state.key, i]));
  const left = (WIDE - BOX) / 2;
  const arcs = type.moves.flatMap((move) =>
    move.to.flatMap((to) => {
      const [from, end] = [at.get(move.from), at.get(to)];
      return from === undefined || end === undefined || from === end
        ? []
        : [{ key: `${move.from} ${to} ${move.roles?.join()}`, from, end, role: move.roles?.[0] ?? null }];
    }),
  );
  return (
    <svg
      width={WIDE}
      height={states.length * ROW}
      role="img"
      aria-label={`Moves of ${type.title}`}
      data-test="moves-diagram"
    >
      <defs>
        <marker id="tip" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="7" markerHeight="7" orient="auto">
          <path d="M0 0 L8 4 L0 8 z" fill="var(--ink)" />
        </marker>
      </defs>
      {arcs.map(({ key, from, end, role }) => {
        const forward = end > from;
        const x = forward ? left + BOX : left;
        const span = Math.abs(end - from);
        const out = (forward ? 1 : -1) * (14 + span * 13);
        const [y1, y2] = [from * ROW + (forward ? 24 : 12), end * ROW + (forward ? 12 : 24)];
        return (
          <g key={key}>
            <path
              d={`M${x} ${y1} C${x + out} ${y1}, ${x + out} ${y2}, ${x} ${y2}`}
              fill="none"
              stroke="var(--ink)"
              strokeWidth="1"
              strokeDasharray={role ? '4 3' : undefined}
              markerEnd="url(#tip)"
            />
            {role && (
              <text
                x={x + out * 0.78 + (forward ? 4 : -4)}
                y={(y1 + y2) / 2 + 4}
                fontSize="11"
                fill="var(--soft)"
                textAnchor={forward ? 'start' : 'end'}
              >
                {role}
              </text>
            )}
          </g>
        );
      })}
      {states.map((state, i) => (
        <g key={state.key}>
          <rect
            x={left}
            y={i * ROW + 4}
            width={BOX}
            height={28}
            fill={state.open ? 'var(--sheet)' : 'var(--faint)'}
            stroke="var(--ink)"
            strokeWidth={i === 0 ? 2 : 1}
          />
          <text x={WIDE / 2} y={i * ROW + 22} fontSize="13" textAnchor="middle" fill="var(--ink)">
            {state.label}
            {state.open ? '' : ' (closed)'}
          </text>
        </g>
      ))}
    </svg>
  );
}
