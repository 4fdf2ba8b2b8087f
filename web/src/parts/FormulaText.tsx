import { type Dialect, pieces } from './feel';

/** A formula to be read, in its colours. */
export function FormulaText({
  text,
  dialect = 'expression',
  title,
}: {
  text: string;
  dialect?: Dialect;
  title?: string;
}) {
  return (
    <span className="mono" title={title}>
      {pieces(text, dialect).map((piece) => (
        <span key={piece.from} className={piece.tone || undefined}>
          {piece.text}
        </span>
      ))}
    </span>
  );
}
