import writeExcelFile from 'write-excel-file/node';
import type { Finding } from '../../core/checks/finding';
import { FINDING_COLUMNS, findingRows } from '../../core/handover/findingsTable';
import { FATE_COLUMNS, fateRows } from '../../core/handover/fatesTable';
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
]);

/** Findings as an Office Open XML workbook. */
export const findingsSheet = (findings: readonly Finding[], effects?: Parameters<typeof findingRows>[1]) =>
  sheet('Findings', FINDING_COLUMNS, findingRows(findings, effects));

/** Tasks as an Office Open XML workbook. */
export const tasksSheet = (tasks: readonly Task[]) => sheet('Tasks', TASK_COLUMNS, taskRows(tasks));

/** Fates of listed addresses as an Office Open XML workbook. */
export const fatesSheet = (rows: readonly FateRow[]) => sheet('Fates', FATE_COLUMNS, fateRows(rows));

/** A workbook (ECMA-376) with one sheet, its heading row kept in view. */
function sheet(
  name: string,
  columns: readonly string[],
  rows: readonly (readonly (string | number | undefined)[])[],
): Promise<Uint8Array> {
  const heading = columns.map((value) => ({ value, type: String, fontWeight: 'bold' as const }));
  const cells = rows.map((row) =>
    row.map((value) =>
      value === undefined
        ? null
        : typeof value === 'number'
          ? { value, type: Number }
          : { value: value.slice(0, MOST), type: String },
    ),
  );
  return writeExcelFile([heading, ...cells], {
    sheet: name,
    stickyRowsCount: 1,
    columns: columns.map((c) => ({ width: WIDE.has(c) ? 44 : 14 })),
  }).toBuffer();
}
