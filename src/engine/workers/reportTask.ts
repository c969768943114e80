import { InputError } from '../../core/capture/errors';
import { reportFacts, type Reader, type ReportFacts } from '../../core/handover/report/facts';
import { parseVisitor } from '../../core/load/visitors';
import type { Format } from '../../core/handover/report/formats';
import { makeReport, pagesOfSweep, reportedSweep } from '../services/makeReport';
import { reportExtras } from '../services/reportExtras';
import { openStore } from '../store/store';

/** A report for a thread of its own, with a connection of its own to the database. */
export interface ReportTask {
  readonly data: string;
  readonly siteId: number;
  readonly sweepId?: number;
  readonly reader: Reader;
  readonly format: Format;
  /** Id or spec. */
  readonly visitor: string;
}

/** The file, or what was wrong: errors lose their class on the way out of a thread. */
export type ReportMade =
  | { readonly bytes: Uint8Array; readonly day: string }
  | { readonly fault: { readonly what: string; readonly where: string; readonly next: string } };

/** What the last report was made from: another reader or format of the same sweep costs no forecasts. */
let last: { readonly key: string; readonly facts: ReportFacts } | undefined;

export async function runTask(task: ReportTask): Promise<ReportMade> {
  const store = await openStore(task.data);
  try {
    const sweep = await reportedSweep(store, task.siteId, task.sweepId);
    const visitor = parseVisitor(task.visitor);
    const withFiles = task.format === 'zip';
    const key = [task.data, task.visitor, withFiles, sweep.state].join(' ');
    if (last?.key !== key) {
      const extras = await reportExtras(store, sweep, visitor);
      last = { key, facts: await reportFacts(await pagesOfSweep(store, sweep, task.format), sweep, visitor, extras) };
    }
    return { bytes: await makeReport(last.facts, task.reader, task.format), day: sweep.day };
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    return { fault: { what: error.what, where: error.where, next: error.next } };
  } finally {
    await store.destroy();
  }
}
