import { api } from '../api/client';
import type { FieldTree } from '../api/trees';
import type { Lexicon } from '../app/lexicon';

type CellValue = string | number | boolean | Date | null;

/** A value as a cell of a spreadsheet: numbers, dates and truths as such, everything else in words. */
function cellOf(value: unknown, field: FieldTree, lexicon: Lexicon): CellValue {
  if (value === null || value === undefined) return null;
  if (typeof value === 'number' || typeof value === 'boolean') return value;
  if ((field.type === 'date' || field.type === 'date_time') && typeof value === 'string') return new Date(value);
  return lexicon.say(value, field);
}

/** The list as an XLSX file, made in the browser. The library is read when it is asked for. */
export async function exportSheet(type: string, query: string, columns: FieldTree[], lexicon: Lexicon): Promise<void> {
  const [{ default: Excel }, rows] = await Promise.all([import('exceljs'), api.exported(type, query)]);
  const book = new Excel.Workbook();
  const sheet = book.addWorksheet(type.slice(0, 30));
  sheet.addRow(['Id', ...columns.map((field) => field.label)]);
  sheet.getRow(1).font = { bold: true };
  sheet.views = [{ state: 'frozen', ySplit: 1 }];
  for (const row of rows) sheet.addRow([row.id, ...columns.map((field) => cellOf(row[field.key], field, lexicon))]);
  const data = await book.xlsx.writeBuffer();
  const link = document.createElement('a');
  link.href = URL.createObjectURL(
    new Blob([data], { type: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet' }),
  );
  link.download = `${type}.xlsx`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
