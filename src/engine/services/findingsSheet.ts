import writeExcelFile from 'write-excel-file/node';
import type { Finding } from '../../core/checks/finding';
import { FINDING_COLUMNS, findingRows } from '../../core/handover/findingsTable';

/** Longest text that a cell of a sheet may hold (ECMA-376, 18.18.96). */
const MOST = 32_767;
const WIDE = new Set(['page', 'title', 'in plain words', 'target', 'change', 'fixed when']);

/** Findings as an Office Open XML workbook (ECMA-376) with one sheet, its heading row kept in view. */
export async function findingsSheet(findings: readonly Finding[]): Promise<Uint8Array> {
  const heading = FINDING_COLUMNS.map((value) => ({ value, type: String, fontWeight: 'bold' as const }));
  const rows = findingRows(findings).map((row) =>
    row.map((value) =>
      value === undefined
        ? null
        : typeof value === 'number'
          ? { value, type: Number }
          : { value: value.slice(0, MOST), type: String },
    ),
  );
  return writeExcelFile([heading, ...rows], {
    sheet: 'Findings',
    stickyRowsCount: 1,
    columns: FINDING_COLUMNS.map((name) => ({ width: WIDE.has(name) ? 44 : 14 })),
  }).toBuffer();
}
