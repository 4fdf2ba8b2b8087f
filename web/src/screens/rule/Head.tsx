import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api, Problem } from '../../api/client';
import type { RuleTree } from '../../api/trees';
import { useWorkshop } from '../../app/workshop';
import { InPlaceText } from '../../parts/InPlaceText';
import { keyFrom } from '../NewRuleDialog';

/** The same rule once more, switched off, just below. */
export function CopyRule({ tree, at }: { tree: RuleTree; at: number }) {
  const shop = useWorkshop();
  const navigate = useNavigate();
  const [problem, setProblem] = useState<string | null>(null);
  const copy = async () => {
    const taken = shop.rules.map((r) => r.tree.key);
    const key = keyFrom(`${tree.key}_copy`, taken);
    try {
      const answer = await api.addPart('rules', { ...tree, key, title: `${tree.title}, once more`, enabled: false });
      shop.saved('rules', answer);
      const order = [...taken.slice(0, at + 1), key, ...taken.slice(at + 1)];
      shop.ordered(order, (await api.orderRules(order)).changes);
      navigate(`/rulebook/${key}`);
    } catch (error) {
      setProblem(Problem.of(error).message);
    }
  };
  return (
    <>
      {problem && <span className="text-red">{problem}</span>}
      <button type="button" className="link" onClick={() => void copy()}>
        copy
      </button>
    </>
  );
}

/** What the business has been asked about the rule, with what it said. */
export function BusinessQuestions({
  questions,
  onQuestions,
}: {
  questions: { ask: string; answer?: string }[];
  onQuestions: (questions: { ask: string; answer?: string }[]) => void;
}) {
  const put = (i: number, question: { ask: string; answer?: string } | null) =>
    onQuestions(questions.flatMap((old, j) => (j === i ? (question ? [question] : []) : [old])));
  return (
    <div data-test="questions">
      {questions.map((q, i) => (
        <div key={i} className="flex items-center gap-3">
          <InPlaceText
            value={q.ask}
            label="Question"
            className="min-w-0 flex-1"
            onKeep={(ask) => put(i, ask === '' ? null : { ...q, ask })}
          />
          <InPlaceText
            value={q.answer ?? ''}
            label={`Answer to ${q.ask}`}
            placeholder="not answered yet"
            className={`min-w-0 flex-1 ${q.answer ? '' : 'text-ochre'}`}
            onKeep={(answer) => put(i, answer === '' ? { ask: q.ask } : { ...q, answer })}
          />
          <button type="button" className="soft" aria-label={`Remove ${q.ask}`} onClick={() => put(i, null)}>
            ×
          </button>
        </div>
      ))}
      <button
        type="button"
        className="link"
        onClick={() => onQuestions([...questions, { ask: 'What is to happen when …?' }])}
      >
        + question
      </button>
    </div>
  );
}
