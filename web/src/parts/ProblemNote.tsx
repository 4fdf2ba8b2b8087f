import type { Problem } from '../api/client';

/** What is wrong, where, and how to mend it. */
export function ProblemNote({ problem }: { problem: Problem | null }) {
  if (!problem) return null;
  return (
    <div role="alert" className="mt-3 border-l-3 border-red bg-redbg px-3 py-2">
      <b>{problem.message}</b> {problem.errors.length === 0 && problem.detail}
      {problem.errors.length > 0 && (
        <ul className="mt-1">
          {problem.errors.slice(0, 8).map((error) => (
            <li key={error.pointer + error.detail}>{error.detail}</li>
          ))}
        </ul>
      )}
    </div>
  );
}
