import type { JobProgress } from '../store/jobs';
import type { RecordingRow } from '../store/recordings';

const nameOf = (r: Pick<RecordingRow, 'url' | 'device'>) => `${r.url} as ${r.device}`;

/** Tells how far the recordings of a job are. */
export function recordingProgress(onProgress: (progress: JobProgress, phase: string) => void) {
  const started = Date.now();
  let made = 0;
  let recent: JobProgress['recent'] = [];
  return {
    /** One is made, or has failed. */
    ended(row: Pick<RecordingRow, 'url' | 'device'>, fault: string | undefined): void {
      made++;
      recent = [{ what: nameOf(row), result: fault ?? 'recorded', ok: fault === undefined }, ...recent.slice(0, 7)];
    },
    report(
      all: readonly Pick<RecordingRow, 'state'>[],
      at: { readonly now: readonly Pick<RecordingRow, 'url' | 'device'>[]; readonly waiting?: string },
    ): void {
      const count = (state: RecordingRow['state']) => all.filter((r) => r.state === state).length;
      const done = count('done') + count('failed');
      const perSecond = made > 0 ? (made * 1000) / (Date.now() - started) : undefined;
      onProgress(
        {
          done,
          total: all.length,
          failed: count('failed'),
          perSecond,
          secondsLeft: perSecond ? (all.length - done) / perSecond : undefined,
          now: at.now.map(nameOf),
          recent,
          waiting: at.waiting,
          counts: { captures: count('done') },
        },
        'recording pages',
      );
    },
  };
}
