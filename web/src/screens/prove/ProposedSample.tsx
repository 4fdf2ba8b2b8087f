import { useState } from 'react';
import { Link } from 'react-router';
import { api, Problem } from '../../api/client';
import type { SampleTree, StepTree, Values } from '../../api/trees';
import { useWorkshop } from '../../app/workshop';
import { ProblemNote } from '../../parts/ProblemNote';

const REST = ['acted', 'still', 'problems', 'refused', 'unchanged', 'messages', 'calls', 'created', 'notes', 'notices'];

/** A sample that Sorvel has worked out, as a short story; it can be accepted or thrown away. */
export function ProposedSample({ tree, onGone }: { tree: SampleTree; onGone: () => void }) {
  const shop = useWorkshop();
  const [problem, setProblem] = useState<Problem | null>(null);
  const [kept, setKept] = useState<string | null>(null);
  const accept = async () => {
    let key = tree.key;
    for (let n = 2; shop.samples.some((s) => s.part.key === key); n++) key = `${tree.key}_${n}`;
    try {
      shop.saved('samples', await api.addPart('samples', { ...tree, key }));
      setKept(key);
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  return (
    <div className="border border-line bg-sheet" data-test="proposed">
      <p className="flex items-baseline gap-3 border-b border-faint px-3 py-1.5">
        <b className="min-w-0 flex-1">{tree.title}</b>
        {kept ? (
          <Link className="link leading-6" to={`/samples/${kept}`}>
            kept as {kept}
          </Link>
        ) : (
          <>
            <button type="button" className="link" onClick={() => void accept()}>
              Keep as a sample
            </button>
            <button type="button" className="soft" onClick={onGone}>
              Throw away
            </button>
          </>
        )}
      </p>
      <div className="px-3 py-2 text-[13px]">
        {Object.entries(tree.given ?? {}).map(([type, records]) => (
          <p key={type}>
            <span className="soft">given </span>
            {records.map((record, i) => (
              <span key={record.id}>
                {i > 0 && ', '}
                {shop.lexicon.type(type)?.title.toLowerCase() ?? type} <span className="mono">{record.id}</span>{' '}
                <Pairs of={record} type={type} without={['id']} />
              </span>
            ))}
          </p>
        ))}
        {tree.steps.map((step, i) => (
          <Step key={i} step={step} tree={tree} />
        ))}
        <ProblemNote problem={problem} />
      </div>
    </div>
  );
}

function Step({ step, tree }: { step: StepTree; tree: SampleTree }) {
  const { lexicon } = useWorkshop();
  const typeOf = (id: string) =>
    step.as === id
      ? step.create
      : Object.entries(tree.given ?? {}).find(([, list]) => list.some((r) => r.id === id))?.[0];
  const expect = (step.expect ?? {}) as Record<string, unknown>;
  const type = step.create ?? typeOf(step.change ?? '') ?? '';
  const act = step.create
    ? `create ${lexicon.type(step.create)?.title.toLowerCase() ?? step.create}`
    : step.change
      ? `change ${step.change}`
      : step.delete
        ? `delete ${step.delete}`
        : step.by_hand
          ? `by hand on ${step.on}`
          : step.clock
            ? `the clock comes to ${step.clock.replace('T', ' ')}`
            : step.answer
              ? `the call ${String(step.answer.call)} comes back ${step.answer.status === undefined ? 'without an answer' : `with ${step.answer.status}`}`
              : 'a message comes';
  return (
    <>
      <p>
        <span className="soft">then </span>
        {act} <Pairs of={step.with ?? {}} type={type} />
        {step.by && <span className="soft"> by {lexicon.person(step.by)}</span>}
      </p>
      <p className="text-teal">
        <span className="soft">comes out </span>
        {Object.entries(expect)
          .filter(([key]) => !REST.includes(key))
          .map(([id, fields]) => (
            <span key={id}>
              <span className="mono">{id}</span> <Pairs of={fields as Values} type={typeOf(id) ?? ''} />{' '}
            </span>
          ))}
        {Object.entries(expect)
          .filter(([key]) => REST.includes(key))
          .map(([key, value]) => (
            <span key={key} className="mr-2">
              {key === 'acted'
                ? '◆ acts'
                : key === 'still'
                  ? '◇ stays still'
                  : key === 'refused'
                    ? 'the save is turned down'
                    : `${key}: ${Array.isArray(value) ? value.length : String(value)}`}
            </span>
          ))}
      </p>
    </>
  );
}

function Pairs({ of, type, without = [] }: { of: Values; type: string; without?: string[] }) {
  const { lexicon } = useWorkshop();
  return (
    <>
      {Object.entries(of)
        .filter(([key]) => !without.includes(key))
        .map(([key, value]) => {
          const field = lexicon.field(type, key);
          return (
            <span key={key} className="mr-2">
              <span className="soft">{field?.label ?? key}</span>{' '}
              {value === null || value === undefined
                ? 'empty'
                : typeof value === 'boolean'
                  ? value
                    ? 'yes'
                    : 'no'
                  : Array.isArray(value)
                    ? value.join(', ')
                    : field?.type === 'person'
                      ? lexicon.person(String(value))
                      : field?.type === 'team'
                        ? lexicon.team(String(value))
                        : (field?.options?.find((o) => o.key === value)?.label ?? String(value))}
            </span>
          );
        })}
    </>
  );
}
