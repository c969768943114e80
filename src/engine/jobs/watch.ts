import { log } from '../log';
import { store } from '../services/openedStore';
import { listJobs, type JobRow } from '../store/jobs';

type Listener = (jobs: readonly JobRow[]) => void;

const listeners = new Set<Listener>();
const LOOK_MS = 400;
let timer: NodeJS.Timeout | undefined;
let last = '';
let jobs: readonly JobRow[] = [];

/** Calls back with all jobs at once and whenever one changes; returns how to stop. Watchers share one look. */
export function watchJobs(listener: Listener): () => void {
  listeners.add(listener);
  if (last) listener(jobs);
  timer ??= setInterval(() => void look(), LOOK_MS);
  void look();
  return () => {
    listeners.delete(listener);
    if (listeners.size > 0) return;
    clearInterval(timer);
    timer = undefined;
    last = '';
  };
}

async function look(): Promise<void> {
  try {
    const now = await listJobs(await store());
    const text = JSON.stringify(now);
    if (text === last) return;
    last = text;
    jobs = now;
    for (const listener of listeners) listener(jobs);
  } catch (err) {
    log.warn({ err }, 'jobs could not be watched');
  }
}
