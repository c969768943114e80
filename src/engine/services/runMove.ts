import fs from 'node:fs/promises';
import path from 'node:path';
import type { Wanted } from '../crawl/control';
import { jobInput, saveJobResult } from '../store/jobs';
import { folderOfStore } from '../store/location';
import type { Store } from '../store/store';
import { moveFiles, type MoveReport } from './moveFiles';
import type { JobContext } from './runSweep';

/** What a job of kind `move` is given. */
export interface MoveInput {
  readonly siteId: number;
  /** The uploaded file. */
  readonly file: string;
  readonly fileName: string;
  readonly from: readonly string[];
  readonly to: string;
  readonly dryRun: boolean;
}

/** Files that a move leaves, by what they are. */
export const MOVE_RESULTS = ['copy', 'patch', 'undo'] as const;
export type MoveResult = (typeof MOVE_RESULTS)[number];

/** Where the results of a move job lie. */
export async function moveFolder(store: Store, jobId: number): Promise<string> {
  return path.join(await folderOfStore(store), 'moves', String(jobId));
}

/** Looks for http addresses in an uploaded file and, unless it is a dry run, writes a changed copy, a diff and an undo map. */
export async function runMove(store: Store, jobId: number, context: JobContext): Promise<Wanted | undefined> {
  const input = await jobInput<MoveInput>(store, jobId);
  if (!input) throw new Error(`job ${jobId} is gone`);
  const folder = await moveFolder(store, jobId);
  await fs.rm(folder, { recursive: true, force: true });
  if (!input.dryRun) await fs.mkdir(folder, { recursive: true, mode: 0o700 });
  try {
    const report = await moveFiles({
      source: input.file,
      from: input.from,
      to: input.to,
      signal: context.control.signal,
      ...(!input.dryRun && { out: path.join(folder, 'copy'), patch: path.join(folder, 'patch') }),
      onProgress: (done, now) =>
        context.onProgress(
          { done, total: done, failed: 0, now: [now], recent: [], counts: {} },
          'looking for addresses',
        ),
    });
    if (report.undo) await fs.rename(report.undo, path.join(folder, 'undo'));
    const shown: MoveReport & { readonly fileName: string } = {
      ...report,
      fileName: input.fileName,
      out: report.out && 'copy',
      undo: report.undo && 'undo',
      places: report.places.slice(0, 2000),
      placesLeftOut: report.placesLeftOut + Math.max(0, report.places.length - 2000),
    };
    await saveJobResult(store, jobId, shown);
  } catch (error) {
    await fs.rm(folder, { recursive: true, force: true });
    if (!context.control.wanted) throw error;
  } finally {
    await fs.rm(input.file, { force: true });
  }
  return context.control.wanted;
}
