import { stringify } from 'csv-stringify/sync';

/** Rows as CSV (RFC 4180). A cell that a spreadsheet would take for a formula is written as text. */
export const csvOf = (rows: string[][]): string => stringify(rows, { record_delimiter: '\r\n', escape_formulas: true });
