import type { SyntaxNode } from '@lezer/common';
import type { FieldTree } from '../api/trees';
import { parse } from '../parts/feel';

/** What a path leads to: its words, and the field at its end. */
export type Naming = (path: string) => { words: string; field: FieldTree | undefined } | null;

const COMPARED: Record<string, string> = {
  '=': 'is',
  '!=': 'is not',
  '<': 'is below',
  '<=': 'is at most',
  '>': 'is above',
  '>=': 'is at least',
};

/** A condition in words as far as it is made of common tests; what is not stands there as it is written. */
export function sayFormula(text: string, name: Naming, say: (value: string, field?: FieldTree) => string): string {
  const source = (node: SyntaxNode) => text.slice(node.from, node.to);
  const children = (node: SyntaxNode): SyntaxNode[] => {
    const found: SyntaxNode[] = [];
    for (let child = node.firstChild; child; child = child.nextSibling) found.push(child);
    return found;
  };
  const named = (node: SyntaxNode | undefined) =>
    node && (node.name === 'VariableName' || node.name === 'PathExpression') ? name(source(node)) : null;
  const value = (node: SyntaxNode, field?: FieldTree): string => {
    if (node.name === 'StringLiteral') {
      const plain = source(node).slice(1, -1);
      const words = say(plain, field);
      return field && words !== plain ? words.toLowerCase() : `“${words}”`;
    }
    if (node.name === 'BooleanLiteral') return source(node) === 'true' ? 'yes' : 'no';
    return named(node)?.words ?? source(node);
  };
  const list = (words: string[]) =>
    words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} or ${words.at(-1)}`;

  const comparison = (node: SyntaxNode): string | null => {
    const parts = children(node);
    const left = named(parts[0]);
    const [, operator, right] = parts;
    if (!left || !operator || !right) return null;
    if (operator.name === 'CompareOp' && right.name === 'null') {
      const sign = source(operator);
      return sign === '=' ? `${left.words} is empty` : sign === '!=' ? `${left.words} is filled` : null;
    }
    if (operator.name === 'CompareOp') return `${left.words} ${COMPARED[source(operator)]} ${value(right, left.field)}`;
    if (operator.name === 'between' && parts[4])
      return `${left.words} is between ${value(right, left.field)} and ${value(parts[4], left.field)}`;
    const tests = parts.find((part) => part.name === 'PositiveUnaryTests');
    if (operator.name !== 'in' || !tests) return null;
    const values = children(tests).map((test) => test.firstChild);
    if (values.some((test) => !test || !/Literal$/.test(test.name))) return null;
    return `${left.words} is ${list(values.flatMap((test) => (test ? [value(test, left.field)] : [])))}`;
  };
  const invocation = (node: SyntaxNode): string | null => {
    const called = node.firstChild ? source(node.firstChild) : '';
    const given = children(node).find((part) => part.name === 'PositionalParameters');
    const [first, second] = given
      ? children(given).filter((part) => part.name !== 'separator' && part.name !== ',')
      : [];
    if (!first) return null;
    if (called === 'not') return denied(first);
    if (called === 'changed' && first.name === 'StringLiteral') {
      const of = name(source(first).slice(1, -1));
      return of && `${of.words} has changed`;
    }
    const of = named(first);
    if (called === 'open') return of && `${of.words} is open`;
    const words = {
      'list contains': 'has',
      contains: 'contains',
      'starts with': 'starts with',
      'ends with': 'ends with',
    }[called];
    return of && words && second ? `${of.words} ${words} ${value(second, of.field)}` : null;
  };
  const denied = (node: SyntaxNode): string | null => {
    const of = named(node);
    if (of) return `${of.words} is no`;
    const words = phrase(node);
    if (words === source(node)) return null;
    return (node.name === 'Comparison' || / is open$/.test(words)) && / is (?!not)/.test(words)
      ? words.replace(' is ', ' is not ')
      : `not (${words})`;
  };
  const joined = (node: SyntaxNode, word: string): string => {
    const parts = children(node).filter((part) => part.name !== 'and' && part.name !== 'or');
    return parts
      .map((part) => {
        const inner = part.name === 'ParenthesizedExpression' ? (children(part)[1] ?? part) : part;
        const words = phrase(inner);
        const mixed = (inner.name === 'Disjunction' || inner.name === 'Conjunction') && inner.name !== node.name;
        return mixed ? `(${words})` : words;
      })
      .join(` ${word} `);
  };
  const phrase = (node: SyntaxNode): string => {
    switch (node.name) {
      case 'Conjunction':
        return joined(node, 'and');
      case 'Disjunction':
        return joined(node, 'or');
      case 'ParenthesizedExpression':
        return `(${phrase(children(node)[1] ?? node)})`;
      case 'Comparison':
        return comparison(node) ?? source(node);
      case 'FunctionInvocation':
        return invocation(node) ?? source(node);
      case 'VariableName':
      case 'PathExpression': {
        const of = named(node);
        return of ? `${of.words} is yes` : source(node);
      }
      default:
        return source(node);
    }
  };
  const tree = parse(text);
  let broken = false;
  tree.iterate({
    enter: (node) => {
      if (node.type.isError) broken = true;
    },
  });
  const top = tree.topNode.firstChild;
  // what cannot be read is shown as it stands
  return top && !broken && top.from === 0 && top.to === text.length ? phrase(top) : text;
}
