/** A file as the server reads it: CSV and JSON as they are, a spreadsheet's first sheet as JSON. */
export async function readFile(file: File): Promise<{ name: string; body: Blob | string; kind: 'csv' | 'json' }> {
  const name = file.name;
  if (/\.json$/i.test(name)) return { name, body: file, kind: 'json' };
  if (!/\.xlsx$/i.test(name)) return { name, body: file, kind: 'csv' };
  const { default: Excel } = await import('exceljs');
  const book = new Excel.Workbook();
  await book.xlsx.load(await file.arrayBuffer());
  const sheet = book.worksheets[0];
  const columns: string[] = [];
  const rows: Record<string, unknown>[] = [];
  sheet?.eachRow((row, number) => {
    if (number === 1) {
      row.eachCell((cell, column) => {
        columns[column] = cell.text.trim();
      });
      return;
    }
    const values: Record<string, unknown> = {};
    for (const [column, title] of columns.entries()) if (title) values[title] = plain(row.getCell(column).value);
    if (Object.values(values).some((value) => value !== null)) rows.push(values);
  });
  return { name, body: JSON.stringify(rows), kind: 'json' };
}

const two = (n: number): string => String(n).padStart(2, '0');

/** Dates stand in a sheet without a zone: what is read is what was seen there. */
export function plain(value: unknown): unknown {
  if (value === null || value === undefined || value === '') return null;
  if (value instanceof Date) {
    const day = `${value.getUTCFullYear()}-${two(value.getUTCMonth() + 1)}-${two(value.getUTCDate())}`;
    const time = `${two(value.getUTCHours())}:${two(value.getUTCMinutes())}:${two(value.getUTCSeconds())}`;
    return time === '00:00:00' ? day : `${day}T${time}`;
  }
  if (typeof value === 'object') {
    if ('result' in value) return plain((value as { result: unknown }).result);
    if ('text' in value) return plain((value as { text: unknown }).text);
    if ('richText' in value)
      return (value as { richText: { text: string }[] }).richText.map((part) => part.text).join('');
    return null;
  }
  return typeof value === 'string' ? value.trim() || null : value;
}
