import { feel } from '@bpmn-io/lang-feel';
import { syntaxHighlighting } from '@codemirror/language';
import { highlightTree, tagHighlighter, tags } from '@lezer/highlight';

/** A formula, or the tests of a check cell. */
export type Dialect = 'expression' | 'unaryTests';

const languages = { expression: feel({ dialect: 'expression' }), unaryTests: feel({ dialect: 'unaryTests' }) };

const classes = tagHighlighter([
  { tag: [tags.string, tags.special(tags.string)], class: 'feel-text' },
  { tag: [tags.number, tags.bool, tags.null], class: 'feel-value' },
  { tag: [tags.controlKeyword, tags.operatorKeyword, tags.definitionKeyword], class: 'feel-word' },
  { tag: [tags.function(tags.variableName), tags.standard(tags.function(tags.variableName))], class: 'feel-function' },
  { tag: [tags.variableName, tags.propertyName, tags.self], class: 'feel-name' },
  { tag: [tags.lineComment, tags.blockComment], class: 'feel-comment' },
]);

export const language = (dialect: Dialect) => [languages[dialect].language, syntaxHighlighting(classes)];

export const parse = (text: string, dialect: Dialect = 'expression') => languages[dialect].language.parser.parse(text);

export interface Piece {
  from: number;
  text: string;
  tone: string;
}

/** A formula's text in pieces, each with the class of its colour. */
export function pieces(text: string, dialect: Dialect = 'expression'): Piece[] {
  const found: Piece[] = [];
  let at = 0;
  const put = (to: number, tone: string) => {
    if (to > at) found.push({ from: at, text: text.slice(at, to), tone });
    at = Math.max(at, to);
  };
  highlightTree(parse(text, dialect), classes, (from, to, tone) => {
    put(from, '');
    put(to, tone);
  });
  put(text.length, '');
  return found;
}

/** The name or path that stands at a place, up to the part there: for the first word of `vessel.name`, `vessel`. */
export function nameAt(
  text: string,
  at: number,
  dialect: Dialect,
): { from: number; to: number; source: string } | null {
  const tree = parse(text, dialect);
  for (const side of [1, -1] as const) {
    let node = tree.resolveInner(at, side);
    if (node.name === 'Identifier' && node.parent) node = node.parent;
    if (node.name === 'PathName' && node.parent?.name === 'PathExpression') node = node.parent;
    if (node.name === 'PathExpression' || node.name === 'VariableName') {
      const called = node.parent?.name === 'FunctionInvocation' && node.parent.from === node.from;
      const source = text.slice(node.from, node.to);
      return called || source.includes('"') ? null : { from: node.from, to: node.to, source };
    }
  }
  return null;
}

/** Offsets of the server count bytes of UTF-8; a text in the browser counts UTF-16 units. */
export function placeOf(text: string, bytes: number): number {
  const encoder = new TextEncoder();
  let seen = 0;
  let at = 0;
  for (const character of text) {
    if (seen >= bytes) break;
    seen += encoder.encode(character).length;
    at += character.length;
  }
  return at;
}
