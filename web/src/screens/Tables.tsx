import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api, Problem } from '../api/client';
import { useWorkshop } from '../app/workshop';
import { keyFrom } from './NewRuleDialog';

/** The decision tables, with what they say and who calls them. */
export default function Tables() {
  const shop = useWorkshop();
  const navigate = useNavigate();
  const [problem, setProblem] = useState<string | null>(null);
  const coverage = new Map(shop.replay?.coverage.tables.map((table) => [table.key, table.rows]));
  const add = async () => {
    const key = keyFrom(
      'New table',
      shop.tables.map(({ tree }) => tree.key),
    );
    try {
      const tree = {
        key,
        title: 'New table',
        inputs: [{ key: 'input' }],
        outputs: [{ key: 'result' }],
        rows: [{ if: ['-'], then: ['null'] }],
      };
      shop.saved('tables', await api.addPart('tables', tree));
      navigate(`/tables/${key}`);
    } catch (error) {
      setProblem(Problem.of(error).message);
    }
  };
  return (
    <main className="flex h-full flex-col">
      <div className="head">
        <h1>Tables</h1>
        <span className="soft">A table turns answers into a value; a formula calls it by its key.</span>
        <button type="button" className="btn btn-main ml-auto" onClick={() => void add()}>
          New table
        </button>
      </div>
      {problem && <p className="bg-redbg px-4 py-2 text-red">{problem}</p>}
      <div className="flex-1 overflow-auto bg-sheet">
        <table className="ledger">
          <thead>
            <tr>
              <th>Table</th>
              <th>Called as</th>
              <th>Hit policy</th>
              <th>Rows hit</th>
              <th>Called by</th>
            </tr>
          </thead>
          <tbody>
            {shop.tables.map(({ tree }) => {
              const rows = coverage.get(tree.key) ?? [];
              const callers = shop.rules
                .map((r, i) => ({ ...r, number: i + 1 }))
                .filter((r) => JSON.stringify(r.tree).includes(`${tree.key}(`));
              return (
                <tr key={tree.key}>
                  <td>
                    <Link to={`/tables/${tree.key}`} className="font-semibold hover:underline">
                      {tree.title}
                    </Link>
                  </td>
                  <td className="mono">
                    {tree.key}({tree.inputs.map((input) => input.key).join(', ')})
                  </td>
                  <td>{tree.hit ?? 'unique'}</td>
                  <td>
                    {rows.filter((row) => row.hit > 0).length} of {tree.rows.length}
                  </td>
                  <td>
                    {callers.length === 0 && <span className="text-ochre">nobody</span>}
                    {callers.map((r, i) => (
                      <span key={r.tree.key}>
                        {i > 0 && ', '}
                        <Link to={`/rulebook/${r.tree.key}`} className="hover:underline">
                          {r.number} {r.tree.title}
                        </Link>
                      </span>
                    ))}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        {shop.tables.length === 0 && (
          <p className="p-6">There is no table yet. Write one where several answers decide a value.</p>
        )}
      </div>
    </main>
  );
}
