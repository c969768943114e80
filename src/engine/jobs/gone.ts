/** A job whose owner was silent for so long is taken over, in ms. */
const SILENCE_MS = 60_000;

/** True when the process that has a job has ended, or has not been heard of for long. */
export function isGone(owner: string | null, beatAt: number | null): boolean {
  const [pid] = (owner ?? '').split(':');
  // Our own threads are known: a job of ours without one was left behind, also by an earlier process of our number.
  if (!Number(pid) || Number(pid) === process.pid) return true;
  try {
    process.kill(Number(pid), 0);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ESRCH') return true;
  }
  return Date.now() - (beatAt ?? 0) > SILENCE_MS;
}
