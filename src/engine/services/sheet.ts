import writeExcelFile from 'write-excel-file/node';
import type { Finding } from '../../core/checks/finding';
import { FINDING_COLUMNS, findingRows } from '../../core/handover/findingsTable';
import { FATE_COLUMNS, fateRows } from '../../core/handover/fatesTable';
import { FILE_COLUMNS, fileRows } from '../../core/handover/filesTable';
import type { SweepFile } from '../../core/pictures/files';
import type { FateRow } from '../../core/site/fates';
import { TASK_COLUMNS, taskRows, type Task } from '../../core/handover/tasks';

/** Longest text that a cell of a sheet may hold (ECMA-376, 18.18.96). */
const MOST = 32_767;
const WIDE = new Set([
  'page',
  'title',
  'in plain words',
  'target',
  'change',
  'fixed when',
  'task',
  'place',
  'address',
  'what happens',
  'ends at',
  'nearest page',
  'done when',
  'reason',
]);

/** Findings as an Office Open XML workbook. */
export const findingsSheet = (findings: readonly Finding[], effects?: Parameters<typeof findingRows>[1]) =>
  sheet('Findings', FINDING_COLUMNS, findingRows(findings, effects));

/** Tasks as an Office Open XML workbook. */
export const tasksSheet = (tasks: readonly Task[]) => sheet('Tasks', TASK_COLUMNS, taskRows(tasks));

/** Fates of listed addresses as an Office Open XML workbook. */
export const fatesSheet = (rows: readonly FateRow[]) => sheet('Fates', FATE_COLUMNS, fateRows(rows));

/** Files as an Office Open XML workbook. */
export const filesSheet = (files: readonly SweepFile[]) => sheet('Files', FILE_COLUMNS, fileRows(files));

/** One table of a workbook. */
export interface Table {
  readonly name: string;
  readonly columns: readonly string[];
  readonly rows: readonly (readonly (string | number | undefined)[])[];
}

/** A workbook (ECMA-376) with one sheet, its heading row kept in view. */
const sheet = (name: string, columns: Table['columns'], rows: Table['rows']): Promise<Uint8Array> =>
  workbook([{ name, columns, rows }]);

/** A workbook with a sheet for each table. */
export function workbook(tables: readonly Table[]): Promise<Uint8Array> {
  return writeExcelFile(
    tables.map(({ name, columns, rows }) => ({
      data: [
        columns.map((value) => ({ value, type: String, fontWeight: 'bold' as const })),
        ...rows.map((row) => row.map(cellOf)),
      ],
      sheet: name,
      stickyRowsCount: 1,
      columns: columns.map((c) => ({ width: WIDE.has(c) ? 44 : 14 })),
    })),
  ).toBuffer();
}

const cellOf = (value: string | number | undefined) =>
  value === undefined
    ? null
    : typeof value === 'number'
      ? { value, type: Number }
      : { value: value.slice(0, MOST), type: String };
