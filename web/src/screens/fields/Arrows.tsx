import { moved } from './shape';

/** Moves one entry of a list up and down. */
export function Arrows<T>({
  list,
  at,
  what,
  onMove,
}: {
  list: T[];
  at: number;
  what: string;
  onMove: (list: T[]) => void;
}) {
  const arrow = (by: -1 | 1) => (
    <button
      type="button"
      className="px-1 text-soft"
      aria-label={`Move ${what} ${by < 0 ? 'up' : 'down'}`}
      disabled={by < 0 ? at === 0 : at === list.length - 1}
      onClick={() => onMove(moved(list, at, by))}
    >
      {by < 0 ? '↑' : '↓'}
    </button>
  );
  return (
    <>
      {arrow(-1)}
      {arrow(1)}
    </>
  );
}
