import { DropdownMenu } from 'radix-ui';
import { type KeyboardEvent, useLayoutEffect, useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api, Problem } from '../api/client';
import { type RuleTree, typesOf } from '../api/trees';
import { reading, writtenLabels } from '../app/sentence';
import { PROVES, useWorkshop } from '../app/workshop';
import { mark } from '../parts/marks';
import { NewRuleDialog } from './NewRuleDialog';

function Covered({ rows }: { rows: { hit: number }[] }) {
  const hit = rows.filter((row) => row.hit > 0).length;
  const share = rows.length === 0 ? 0 : (hit / rows.length) * 100;
  return (
    <span title={`${hit} of ${rows.length} rows hit by a sample`}>
      <span className="relative block h-[5px] w-[46px] border border-line hatched">
        <span className="absolute inset-y-0 left-0 bg-teal" style={{ width: `${share}%` }} />
      </span>
      <span className="text-[12.5px]">
        {hit} of {rows.length}
      </span>
    </span>
  );
}

/** The replay grid: rules down in running order, samples across by what they prove. */
export function Rulebook() {
  const shop = useWorkshop();
  const navigate = useNavigate();
  const [filter, setFilter] = useState('');
  const [type, setType] = useState<string | null>(null);
  const [fresh, setFresh] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const body = useRef<HTMLTableSectionElement>(null);
  const { lexicon, samples, replay, inHand } = shop;
  const words = filter.trim().toLowerCase();
  const shown = shop.rules
    .map((rule, i) => ({ ...rule, number: i + 1 }))
    .filter(({ tree }) => type === null || typesOf(tree).includes(type))
    .filter(
      ({ tree }) =>
        words === '' ||
        `${tree.title} ${tree.key} ${reading(tree, lexicon)} ${writtenLabels(tree, lexicon)}`
          .toLowerCase()
          .includes(words),
    );
  const groups = PROVES.map(([proves, label]) => ({
    label,
    samples: samples.filter((s) => s.tree.proves === proves),
  })).filter((group) => group.samples.length > 0);
  const firsts = new Set(groups.map((group) => group.samples[0]?.part.key));
  const tickets = shop.types.filter((t) => shop.rules.some(({ tree }) => typesOf(tree).includes(t.key)));
  const coverage = new Map(replay?.coverage.rules.map((rule) => [rule.key, rule.rows]));

  const last = shop.rules.length;
  const moves = (number: number): { label: string; by: number; keys?: string }[] => [
    { label: 'Run earlier', by: number > 1 ? -1 : 0, keys: 'Alt ↑' },
    { label: 'Run later', by: number < last ? 1 : 0, keys: 'Alt ↓' },
    { label: 'Run first', by: 1 - number },
    { label: 'Run last', by: last - number },
  ];
  const moved = useRef<string | null>(null);
  const order = shop.rules.map((rule) => rule.tree.key).join(' ');
  // a row that changes its place loses the focus
  useLayoutEffect(() => {
    if (moved.current) body.current?.querySelector<HTMLElement>(`[data-rule="${moved.current}"]`)?.focus();
    moved.current = null;
  }, [order]);
  const reorder = async (key: string, by: number) => {
    const keys = shop.rules.map((rule) => rule.tree.key);
    const from = keys.indexOf(key);
    const to = from + by;
    if (to < 0 || to >= keys.length) return;
    keys.splice(from, 1);
    keys.splice(to, 0, key);
    try {
      const answer = await api.orderRules(keys);
      moved.current = key;
      shop.ordered(keys, answer.changes);
      shop.replayAll();
      setProblem(null);
    } catch (error) {
      setProblem(Problem.of(error).message);
      shop.reload();
    }
  };
  const onKey = (event: KeyboardEvent, tree: RuleTree) => {
    const row = event.currentTarget;
    if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
      event.preventDefault();
      void reorder(tree.key, event.key === 'ArrowUp' ? -1 : 1);
    } else if (event.key === 'ArrowDown') (row.nextElementSibling as HTMLElement | null)?.focus();
    else if (event.key === 'ArrowUp') (row.previousElementSibling as HTMLElement | null)?.focus();
    else if (event.key === 'Enter' && event.target === row) navigate(`/rulebook/${tree.key}`);
    else return;
    event.preventDefault();
  };

  return (
    <main className="flex h-full flex-col">
      <div className="head">
        <h1>Rulebook</h1>
        <div className="flex" role="radiogroup" aria-label="Type">
          {[{ key: null, title: 'All' }, ...tickets].map((t) => (
            <button
              key={t.title}
              type="button"
              role="radio"
              aria-checked={type === t.key}
              className={`border border-l-0 border-line px-2.5 py-1 text-[13px] first:border-l ${type === t.key ? 'bg-ink font-semibold text-paper' : 'bg-sheet'}`}
              onClick={() => setType(t.key)}
            >
              {t.title}
            </button>
          ))}
        </div>
        <input
          data-filter
          className="field w-[190px]"
          placeholder="Filter rules  /"
          aria-label="Filter rules"
          value={filter}
          onChange={(e) => setFilter(e.target.value)}
          onKeyDown={(e) => e.key === 'Escape' && setFilter('')}
        />
        <span className="soft ml-auto whitespace-nowrap" data-test="replayed">
          {replay && `replayed ${samples.length} samples in ${Math.round(replay.ms)} ms`}
        </span>
        <button type="button" className="btn btn-main" onClick={() => setFresh(true)}>
          New rule
        </button>
      </div>
      {problem && (
        <p role="alert" className="bg-redbg px-4 py-2 text-red">
          {problem}
        </p>
      )}
      <div className="flex-1 overflow-auto bg-sheet">
        <table className="w-full border-separate border-spacing-0" data-test="replay-grid">
          <thead className="sticky top-0 z-10 bg-sheet">
            <tr className="text-[12.5px]">
              <th className="soft border-b border-faint px-4 py-1 text-left font-semibold" colSpan={4}>
                Rules in running order
              </th>
              {groups.map((group) => (
                <th
                  key={group.label}
                  colSpan={group.samples.length}
                  className="soft max-w-0 truncate border-b border-l border-faint border-l-line px-1 text-left font-semibold"
                  title={group.label}
                >
                  {group.label}
                </th>
              ))}
            </tr>
            <tr>
              <th className="sticky left-0 z-1 w-8 border-b border-line bg-sheet" aria-label="Number" />
              <th className="sticky left-10 z-1 border-b border-line bg-sheet" aria-label="Rule">
                <div className="w-[290px]" />
              </th>
              <th className="soft w-[92px] border-b border-line px-2 text-left text-[12.5px] font-normal">sets</th>
              <th className="soft w-[62px] border-b border-line px-2 text-left text-[12.5px] font-normal">covered</th>
              {samples.map((s) => (
                <th
                  key={s.part.key}
                  className={`w-[25px] min-w-[25px] border-b border-line p-0 ${firsts.has(s.part.key) ? 'border-l' : ''} ${s.part.key === inHand?.part.key ? 'bg-tealbg' : ''}`}
                >
                  <button
                    type="button"
                    className={`w-full py-1 text-[13px] ${s.part.key === inHand?.part.key ? 'font-bold' : 'soft font-normal'}`}
                    title={s.tree.title}
                    onClick={() => shop.takeInHand(s.part.key)}
                    onDoubleClick={() => navigate(`/samples/${s.part.key}`)}
                  >
                    {s.number}
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody ref={body}>
            {shown.map(({ tree, number }) => {
              const rows = coverage.get(tree.key);
              const untested = rows?.every((row) => row.hit === 0) ?? false;
              return (
                <tr
                  key={tree.key}
                  data-rule={tree.key}
                  data-test={`rule-${tree.key}`}
                  tabIndex={0}
                  className="group hover:bg-paper"
                  onKeyDown={(event) => onKey(event, tree)}
                >
                  <td className="soft sticky left-0 z-1 w-10 min-w-10 border-b border-faint bg-sheet pl-2 text-right align-middle group-hover:bg-paper">
                    <DropdownMenu.Root>
                      <DropdownMenu.Trigger tabIndex={-1} aria-label={`Rule ${number}`} title="Move this rule">
                        {number}
                      </DropdownMenu.Trigger>
                      <DropdownMenu.Portal>
                        <DropdownMenu.Content className="menu" align="start">
                          {moves(number).map((move) => (
                            <DropdownMenu.Item
                              key={move.label}
                              className="menu-item"
                              disabled={move.by === 0}
                              onSelect={() => void reorder(tree.key, move.by)}
                            >
                              {move.label} {move.keys && <span className="key">{move.keys}</span>}
                            </DropdownMenu.Item>
                          ))}
                        </DropdownMenu.Content>
                      </DropdownMenu.Portal>
                    </DropdownMenu.Root>
                  </td>
                  <td
                    className={`sticky left-10 z-1 max-w-0 border-b border-faint bg-sheet px-3 py-px group-hover:bg-paper ${tree.enabled === false ? 'opacity-50' : ''}`}
                  >
                    <Link
                      to={`/rulebook/${tree.key}`}
                      className="block truncate font-semibold hover:underline"
                      tabIndex={-1}
                    >
                      {tree.title}
                      {tree.enabled === false && <span className="soft font-normal"> not in use</span>}
                    </Link>
                    <span className="soft block truncate text-[12.5px] leading-4" title={reading(tree, lexicon)}>
                      {reading(tree, lexicon)}
                    </span>
                  </td>
                  <td className="max-w-[92px] truncate border-b border-faint px-2 text-[13px] text-plum">
                    {writtenLabels(tree, lexicon)}
                  </td>
                  <td className={`border-b border-faint px-2 ${untested ? 'text-ochre' : ''}`}>
                    {rows && <Covered rows={rows} />}
                  </td>
                  {samples.map((s) => {
                    const m = mark(s.result?.rules[tree.key]);
                    return (
                      <td
                        key={s.part.key}
                        title={`${s.number} ${s.tree.title}: ${m.words}`}
                        className={`border-b border-faint text-center text-[13px] ${firsts.has(s.part.key) ? 'border-l border-l-line' : 'border-l border-l-faint'} ${s.part.key === inHand?.part.key ? 'bg-tealbg' : ''} ${m.tone}`}
                      >
                        {m.sign}
                      </td>
                    );
                  })}
                </tr>
              );
            })}
            {shown.length === 0 && (
              <tr>
                <td colSpan={4 + samples.length} className="p-6">
                  No rule is like that.{' '}
                  <button
                    type="button"
                    className="link"
                    onClick={() => {
                      setFilter('');
                      setType(null);
                    }}
                  >
                    Show all
                  </button>
                </td>
              </tr>
            )}
          </tbody>
          <tfoot className="sticky bottom-0 z-10 bg-sheet">
            <tr>
              <td className="sticky left-0 border-t border-line bg-sheet" />
              <td
                colSpan={3}
                className="soft sticky left-10 max-w-0 bg-sheet truncate border-t border-line px-3 py-1 text-[12.5px]"
              >
                <b className="text-ink">As expected?</b>&ensp;◆ acted&ensp;◇ looked, did not act&ensp;· not due&ensp;◈
                nothing left to change&ensp;✕ problem
              </td>
              {samples.map((s) => {
                const verdict = s.result?.verdict;
                const off = verdict === 'differs' || verdict === 'broken';
                return (
                  <td
                    key={s.part.key}
                    className={`border-t border-line p-0 text-center ${firsts.has(s.part.key) ? 'border-l' : ''} ${off ? 'bg-red font-bold text-paper' : 'text-teal'}`}
                  >
                    <Link
                      to={`/samples/${s.part.key}`}
                      className="block py-1"
                      title={`${s.tree.title}: ${verdict ?? 'not replayed'}`}
                      data-test={`verdict-${s.part.key}`}
                      onClick={() => shop.takeInHand(s.part.key)}
                    >
                      {verdict === 'agrees' ? '✓' : verdict === 'differs' ? '≠' : verdict === 'broken' ? '✕' : '…'}
                    </Link>
                  </td>
                );
              })}
            </tr>
          </tfoot>
        </table>
      </div>
      <NewRuleDialog open={fresh} onOpen={setFresh} />
    </main>
  );
}
