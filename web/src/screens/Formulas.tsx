import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { api, Problem } from '../api/client';
import { signature } from '../parts/complete';

function Result({ formula }: { formula: string }) {
  const { data, error } = useQuery({
    queryKey: ['try', formula],
    queryFn: () => api.tryFormula(formula),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (error) return <span className="text-red">✕ {Problem.of(error).message}</span>;
  if (!data) return <span className="soft">…</span>;
  if (data.error !== null) return <span className="text-red">✕ {data.error}</span>;
  return (
    <span>
      → <span className="mono now">{data.value}</span>
      {data.warnings.map((warning) => (
        <span key={warning} className="ml-2 text-ochre">
          ⚠ {warning}
        </span>
      ))}
    </span>
  );
}

/** An example: run there and then, or taken to the line above to be changed. */
function Example({ formula, onTake }: { formula: string; onTake: (formula: string) => void }) {
  const [run, setRun] = useState(false);
  return (
    <div className="flex flex-wrap items-baseline gap-x-3" data-test="example">
      <button
        type="button"
        className="mono text-left hover:underline"
        onClick={() => onTake(formula)}
        title="Take it to the line above"
      >
        {formula}
      </button>
      {run ? (
        <Result formula={formula} />
      ) : (
        <button type="button" className="link" onClick={() => setRun(true)}>
          run
        </button>
      )}
    </div>
  );
}

/** Help: every operator and function of the formula language, from the definitions that completion uses. */
export default function Formulas() {
  const { data } = useQuery({ queryKey: ['functions'], queryFn: api.functions, staleTime: Number.POSITIVE_INFINITY });
  const [search, setSearch] = useSearchParams();
  const [text, setText] = useState('');
  const [tried, setTried] = useState('');
  const words = (search.get('q') ?? '').toLowerCase();
  const take = (formula: string) => {
    setText(formula);
    setTried(formula);
  };
  const functions = (data?.functions ?? []).filter(
    (f) =>
      words === '' ||
      signature(f).toLowerCase().includes(words) ||
      f.examples.some((e) => e.toLowerCase().includes(words)),
  );
  const operators = (data?.operators ?? []).filter(
    (o) =>
      words === '' || o.title.toLowerCase().includes(words) || o.formulas.some((f) => f.toLowerCase().includes(words)),
  );
  return (
    <main className="flex h-full flex-col" data-test="formulas">
      <div className="head">
        <h1>Formulas</h1>
        <input
          data-filter
          className="field w-[240px]"
          placeholder="Function, operator …  /"
          aria-label="Filter formulas"
          value={search.get('q') ?? ''}
          onChange={(e) => setSearch(e.target.value === '' ? {} : { q: e.target.value }, { replace: true })}
        />
        <span className="soft">FEEL, as the open standard DMN defines it; numbers are exact.</span>
      </div>
      <form
        className="flex items-center gap-3 border-b border-line bg-sheet px-4 py-2.5"
        onSubmit={(event) => {
          event.preventDefault();
          setTried(text.trim());
        }}
      >
        <input
          className="field mono flex-1"
          aria-label="Try a formula"
          placeholder="Try one: 1 + 2"
          value={text}
          spellCheck={false}
          onChange={(e) => setText(e.target.value)}
        />
        <button type="submit" className="btn">
          Run
        </button>
        <span className="min-w-[220px]" data-test="tried" aria-live="polite">
          {tried !== '' && <Result key={tried} formula={tried} />}
        </span>
      </form>
      <div className="flex-1 overflow-auto bg-sheet">
        <table className="ledger">
          <tbody>
            {operators.map((group) => (
              <tr key={group.title}>
                <td className="w-[330px] font-semibold">{group.title}</td>
                <td>
                  {group.formulas.map((formula) => (
                    <Example key={formula} formula={formula} onTake={take} />
                  ))}
                </td>
              </tr>
            ))}
            {functions.map((f) => (
              <tr key={f.name}>
                <td className="mono">{signature(f)}</td>
                <td>
                  {f.examples.map((formula) => (
                    <Example key={formula} formula={formula} onTake={take} />
                  ))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {data && functions.length === 0 && operators.length === 0 && <p className="p-6">Nothing is called that.</p>}
      </div>
    </main>
  );
}
