import { diffLines } from 'diff';
import { stringify } from 'yaml';

const text = (tree: unknown): string =>
  tree === null || tree === undefined ? '' : stringify(tree, { lineWidth: 100 });

/** Two trees in the open format, line against line. */
export function TreeDiff({ before, after }: { before: unknown; after: unknown }) {
  const rows = diffLines(text(before), text(after)).flatMap((chunk) =>
    chunk.value
      .replace(/\n$/, '')
      .split('\n')
      .map((line) => ({ line, sign: chunk.added ? '+' : chunk.removed ? '−' : ' ' })),
  );
  const near = rows.map((_, i) => rows.slice(Math.max(0, i - 2), i + 3).some((row) => row.sign !== ' '));
  let number = 0;
  return (
    <div className="mono overflow-auto leading-[18px]">
      {rows.map((row, i) => {
        number += 1;
        if (!near[i])
          return near[i - 1] || i === 0 ? (
            <div key={number} className="soft">
              ⋯
            </div>
          ) : null;
        return (
          <div
            key={number}
            className={`whitespace-pre px-2 ${row.sign === '+' ? 'bg-plumbg text-plum' : row.sign === '−' ? 'bg-redbg' : ''}`}
          >
            <span className="inline-block w-4">{row.sign}</span>
            {/^\s*/.exec(row.line)?.[0]}
            {row.sign === '−' ? <del>{row.line.trimStart()}</del> : row.line.trimStart()}
          </div>
        );
      })}
    </div>
  );
}
