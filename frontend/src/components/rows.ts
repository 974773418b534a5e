// A table as text: what a spreadsheet reads.
export interface Column<R> {
  key: string
  title: string
  /** What stands in a cell; none for a cell that only offers something to do. */
  says?: (row: R) => string | number
  /** What it is sorted by, where that is not what stands there. */
  sorts?: (row: R) => string | number
  right?: boolean
  quiet?: boolean
}

export interface TableProps<R> {
  rows: R[]
  columns: Column<R>[]
  /** What the table is, and what the saved file is called. */
  name: string
  rowKey: (keyof R & string) | ((row: R) => string)
  empty?: string
  /** A few lines in an order of their own: neither sorted nor taken along. */
  still?: boolean
  rowClass?: (row: R) => string
}

const MINUS = /^−(?=\d)/

/** A value as a cell: quoted where it has to be, with a minus that a spreadsheet takes for one. */
export function cell(value: string | number): string {
  let text = String(value).replace(MINUS, '-')
  // a spreadsheet would run what begins like a formula
  if (/^[=@\t\r]|^[+-](?![\d.])/.test(text)) text = `'${text}`
  return /[",\n\r]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text
}

/** Rows with their heads as RFC 4180 has them. */
export const asCsv = <R>(rows: R[], columns: Column<R>[]): string =>
  [columns.map((one) => cell(one.title)), ...rows.map((row) => columns.map((one) => cell(one.says!(row))))]
    .map((line) => `${line.join(',')}\r\n`)
    .join('')

/** The same with tabs, as it is pasted into a sheet. */
export const asTabs = <R>(rows: R[], columns: Column<R>[]): string =>
  [columns.map((one) => one.title), ...rows.map((row) => columns.map((one) => String(one.says!(row))))]
    .map((line) => line.map((text) => text.replace(/[\t\n\r]+/g, ' ').replace(MINUS, '-')).join('\t'))
    .join('\n')
