import type { FieldTree, SampleTree, VariantsTree } from '../../api/trees';
import type { Lexicon } from '../../app/lexicon';

/** A cell as one writes it: options by label, lists with commas, nothing for empty. */
export function writeCell(value: unknown, field: FieldTree | undefined): string {
  if (value === null || value === undefined || value === '') return '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (Array.isArray(value)) return value.map((one) => writeCell(one, field)).join(', ');
  if (typeof value === 'object') return JSON.stringify(value);
  return field?.options?.find((o) => o.key === value)?.label ?? String(value);
}

/** What is written in a cell as the value of a field. */
export function readCell(text: string, field: FieldTree | undefined, lexicon?: Lexicon): unknown {
  const trimmed = text.trim();
  if (trimmed === '' || trimmed === '–') return null;
  const lists = ['tags', 'people', 'choices', 'references'];
  if (field && lists.includes(field.type))
    return trimmed
      .split(/\s*,\s*/)
      .filter((one) => one !== '')
      .map((one) => readCell(one, { ...field, type: field.type === 'people' ? 'person' : 'choice' }, lexicon));
  const lower = trimmed.toLowerCase();
  const option = field?.options?.find((o) => o.label.toLowerCase() === lower || o.key === trimmed);
  if (option) return option.key;
  switch (field?.type) {
    case 'number':
    case 'percent': {
      const number = Number(trimmed.replace(/\s*%$/, '').replace(',', '.'));
      return Number.isFinite(number) ? number : trimmed;
    }
    case 'tally':
    case 'derived':
      return /^-?\d+(\.\d+)?$/.test(trimmed) ? Number(trimmed) : trimmed;
    case 'yes_no':
      return ['yes', 'true', '1'].includes(lower) ? true : ['no', 'false', '0'].includes(lower) ? false : trimmed;
    case 'person':
      return lexicon?.allPeople().find((p) => p.name.toLowerCase() === lower)?.key ?? trimmed;
    case 'team':
      return lexicon?.allTeams().find((t) => t.name.toLowerCase() === lower)?.key ?? trimmed;
    default:
      return trimmed;
  }
}

/** A block from a spreadsheet over the lines, from a place on; it adds the lines that it needs. */
export function pasteBlock(
  variants: VariantsTree,
  line: number,
  column: number,
  block: string,
  read: (text: string, column: number) => unknown,
): VariantsTree {
  const rows = block
    .replace(/\r\n?/g, '\n')
    .replace(/\n$/, '')
    .split('\n')
    .map((row) => row.split('\t'));
  const width = variants.inputs.length + variants.outcomes.length;
  const lines = variants.lines.map((one) => ({ ...one, in: [...one.in], out: [...one.out] }));
  rows.forEach((cells, r) => {
    const at = line + r;
    while (lines.length <= at)
      lines.push({ in: variants.inputs.map(() => null), out: variants.outcomes.map(() => null) });
    cells.forEach((cell, c) => {
      const place = column + c;
      const target = lines[at];
      if (!target || place >= width) return;
      if (place < variants.inputs.length) target.in[place] = read(cell, place);
      else target.out[place - variants.inputs.length] = read(cell, place);
    });
  });
  return { ...variants, lines };
}

/** The type of the record that a sample's story knows under an id. */
export function typeOf(sample: SampleTree, id: string): string | undefined {
  for (const [type, records] of Object.entries(sample.given ?? {})) if (records.some((r) => r.id === id)) return type;
  return sample.steps.find((s) => s.as === id)?.create ?? sample.steps.find((s) => s.as === id)?.receive?.opens;
}
