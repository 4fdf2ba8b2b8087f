import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { Link } from 'react-router';
import { api, type OutsideBody, type OutsideList, Problem } from '../../api/client';
import { inUse, type TypeTree } from '../../api/trees';
import { type DeskView, moment } from '../../app/desk';
import { useMay } from '../../app/session';
import { ProblemNote } from '../../parts/ProblemNote';

function Settings({ type, list, onClose }: { type: TypeTree; list: OutsideList | undefined; onClose: () => void }) {
  const client = useQueryClient();
  const [body, setBody] = useState<OutsideBody>({
    address: list?.address ?? '',
    rows: list?.rows ?? '$[*]',
    paths: list?.paths ?? {},
    key: list?.key ?? '',
    every: list?.every ?? 60,
    inside: list?.inside ?? false,
  });
  const [secret, setSecret] = useState('');
  const [problem, setProblem] = useState<Problem | null>(null);
  const [tried, setTried] = useState<{ problem: string | null; total: number; rows: Record<string, unknown>[] } | null>(
    null,
  );
  const [busy, setBusy] = useState(false);
  const fields = inUse(type);
  const sent = (): OutsideBody => ({ ...body, ...(secret ? { credentials: secret } : {}) });
  const act = async (work: () => Promise<void>) => {
    setBusy(true);
    setProblem(null);
    try {
      await work();
    } catch (error) {
      setProblem(Problem.of(error));
    } finally {
      setBusy(false);
    }
  };
  const done = async () => {
    await client.invalidateQueries({ queryKey: ['outside'] });
    onClose();
  };
  const wrong = (pointer: string) => {
    const detail = problem?.errors.find((e) => e.pointer === pointer)?.detail;
    return detail ? <span className="block text-[13px] text-red">✕ {detail}</span> : null;
  };
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-over" />
        <Dialog.Content className="dialog" aria-describedby={undefined} data-test="outside">
          <Dialog.Title className="mb-3 text-[17px] font-bold">{type.title} from outside</Dialog.Title>
          <div className="grid grid-cols-[150px_1fr] items-start gap-x-3 gap-y-2">
            <span>Address</span>
            <label>
              <input
                className="field w-full"
                aria-label="Address"
                placeholder="https://…"
                value={body.address}
                onChange={(e) => setBody({ ...body, address: e.target.value })}
              />
              {wrong('/address')}
            </label>
            <span />
            <label className="flex gap-2">
              <input
                type="checkbox"
                checked={body.inside ?? false}
                onChange={(e) => setBody({ ...body, inside: e.target.checked })}
              />{' '}
              It lies on our own network
            </label>
            <span>Header Authorization</span>
            <input
              className="field w-full"
              type="password"
              autoComplete="new-password"
              aria-label="Header Authorization"
              placeholder={list?.has_credentials ? 'kept, encrypted; write a new one to replace it' : 'none'}
              value={secret}
              onChange={(e) => setSecret(e.target.value)}
            />
            <span>Path to the rows</span>
            <label>
              <input
                className="field mono w-full"
                aria-label="Path to the rows"
                value={body.rows}
                onChange={(e) => setBody({ ...body, rows: e.target.value })}
              />
              {wrong('/rows')}
            </label>
            <span>Path in a row</span>
            <div>
              {fields.map((field) => (
                <label key={field.key} className="mb-1 grid grid-cols-[150px_1fr] items-center gap-2">
                  <span>{field.label}</span>
                  <input
                    className="field mono"
                    aria-label={`Path of ${field.label}`}
                    value={body.paths[field.key] ?? ''}
                    onChange={(e) => {
                      const { [field.key]: _, ...rest } = body.paths;
                      setBody({ ...body, paths: e.target.value ? { ...rest, [field.key]: e.target.value } : rest });
                    }}
                  />
                  {wrong(`/paths/${field.key}`)}
                </label>
              ))}
            </div>
            <span>Key</span>
            <label>
              <select
                className="field"
                aria-label="Key"
                value={body.key}
                onChange={(e) => setBody({ ...body, key: e.target.value })}
              >
                <option value="">choose …</option>
                {fields
                  .filter((f) => body.paths[f.key])
                  .map((f) => (
                    <option key={f.key} value={f.key}>
                      {f.label}
                    </option>
                  ))}
              </select>
              {wrong('/key')}
            </label>
            <span>Asked every</span>
            <label>
              <input
                className="field w-[90px]"
                type="number"
                min={1}
                aria-label="Minutes"
                value={body.every ?? 60}
                onChange={(e) => setBody({ ...body, every: Number(e.target.value) })}
              />{' '}
              minutes
              {wrong('/every')}
            </label>
          </div>
          {problem && problem.errors.length === 0 && <ProblemNote problem={problem} />}
          {tried && (
            <div className="mt-3 border-t border-line pt-2" data-test="outside-tried">
              {tried.problem ? (
                <p className="text-red">✕ {tried.problem}</p>
              ) : (
                <>
                  <p>
                    <b>{tried.total} rows.</b> The first of them:
                  </p>
                  <table className="ledger">
                    <thead>
                      <tr>
                        {Object.keys(body.paths).map((key) => (
                          <th key={key}>{fields.find((f) => f.key === key)?.label ?? key}</th>
                        ))}
                      </tr>
                    </thead>
                    <tbody>
                      {tried.rows.map((row) => (
                        <tr key={JSON.stringify(row)}>
                          {Object.keys(body.paths).map((key) => (
                            <td key={key}>
                              {row[key] === null || row[key] === undefined ? (
                                <span className="soft">–</span>
                              ) : (
                                String(row[key])
                              )}
                            </td>
                          ))}
                        </tr>
                      ))}
                    </tbody>
                  </table>
                </>
              )}
            </div>
          )}
          <div className="mt-4 flex justify-end gap-2">
            {list && (
              <button
                type="button"
                className="btn mr-auto"
                onClick={() => void act(() => api.deleteOutside(type.key).then(done))}
              >
                Keep it by hand from now on
              </button>
            )}
            <Dialog.Close className="btn">Close</Dialog.Close>
            <button
              type="button"
              className="btn"
              disabled={busy}
              onClick={() => void act(async () => setTried(await api.tryOutside(type.key, sent())))}
            >
              {busy ? 'Asking …' : 'Try it'}
            </button>
            <button
              type="button"
              className="btn btn-main"
              disabled={busy}
              onClick={() => void act(() => api.saveOutside(type.key, sent()).then(done))}
            >
              Save and ask now
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** Whether a register is fed from outside, and how that goes. */
export function OutsideState({ type, view }: { type: TypeTree; view: DeskView }) {
  const client = useQueryClient();
  const administers = useMay('administrator');
  const [editing, setEditing] = useState(false);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const { data } = useQuery({ queryKey: ['outside'], queryFn: api.outside, refetchInterval: 20_000 });
  const list = data?.lists.find((l) => l.type === type.key);
  if (!data) return null;
  const good = list?.good_at ? moment(list.good_at, view.desk.timezone) : null;
  const refresh = async () => {
    setBusy(true);
    setProblem(null);
    try {
      await api.refreshOutside(type.key);
    } catch (error) {
      setProblem(Problem.of(error));
    } finally {
      setBusy(false);
      await client.invalidateQueries({ queryKey: ['outside'] });
      setTimeout(() => void client.invalidateQueries({ queryKey: ['register', type.key] }), 1500);
    }
  };
  return (
    <>
      {list && (
        <span className="text-[13px]" data-test="outside-state">
          {list.problem ? (
            <span className="text-red" title={list.problem}>
              ✕ From outside: {list.problem}{' '}
              <span className="soft">What was good last stays{good && `, from ${good.short}`}.</span>
            </span>
          ) : (
            <span className="soft" title={good?.exact}>
              From outside, {list.listed} rows {good ? `${good.short}` : 'not asked yet'}
              {list.unlisted > 0 && `, ${list.unlisted} no longer listed`}
            </span>
          )}{' '}
          <button type="button" className="link" disabled={busy} onClick={() => void refresh()}>
            {busy ? 'Asking …' : 'Ask now'}
          </button>{' '}
          <Link className="link" to="/imports">
            Account
          </Link>
        </span>
      )}
      {problem && <span className="text-[13px] text-red">✕ {problem.message}</span>}
      {administers && (
        <button type="button" className="btn" onClick={() => setEditing(true)}>
          {list ? 'Source' : 'From outside …'}
        </button>
      )}
      {editing && <Settings type={type} list={list} onClose={() => setEditing(false)} />}
    </>
  );
}
