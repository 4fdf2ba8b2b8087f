import type { ReplayedSample } from '../api/client';

export function Verdict({ verdict }: { verdict: ReplayedSample['verdict'] | undefined }) {
  if (verdict === 'agrees') return <b className="text-teal">✓ agrees</b>;
  if (verdict === 'differs') return <b className="text-red">≠ differs</b>;
  if (verdict === 'broken') return <b className="text-red">✕ broken</b>;
  return <span className="soft">not replayed</span>;
}
