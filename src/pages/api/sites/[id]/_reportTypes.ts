import type { Format } from '../../../../core/handover/report/formats';
import { SHEET_TYPE } from '../../_answer';

/** Media type of each format of a report. */
export const REPORT_TYPES: Readonly<Record<Format, string>> = {
  html: 'text/html; charset=utf-8',
  pdf: 'application/pdf',
  xlsx: SHEET_TYPE,
  md: 'text/markdown; charset=utf-8',
  json: 'application/json; charset=utf-8',
  csv: 'text/csv; charset=utf-8',
  zip: 'application/zip',
  sarif: 'application/sarif+json',
};
