import { log } from '../log';
import { store } from '../services/openedStore';
import { listJobs } from '../store/jobs';
import { planVersions } from '../store/plans';
import type { Store } from '../store/store';

const LOOK_MS = 400;

/**
 * Watches something in the database: calls back with it at once and whenever it changes; the returned function gives how
 * to stop. Watchers share one look.
 */
function watching<T>(read: (store: Store) => Promise<T>): (listener: (value: T) => void) => () => void {
  const listeners = new Set<(value: T) => void>();
  let timer: NodeJS.Timeout | undefined;
  let last = '';
  let value: T | undefined;
  const look = async () => {
    try {
      const now = await read(await store());
      const text = JSON.stringify(now);
      if (text === last) return;
      last = text;
      value = now;
      for (const listener of listeners) listener(now);
    } catch (err) {
      log.warn({ err }, 'changes could not be watched');
    }
  };
  return (listener) => {
    listeners.add(listener);
    if (value !== undefined && last) listener(value);
    timer ??= setInterval(() => void look(), LOOK_MS);
    void look();
    return () => {
      listeners.delete(listener);
      if (listeners.size > 0) return;
      clearInterval(timer);
      timer = undefined;
      last = '';
    };
  };
}

/** All jobs. */
export const watchJobs = watching(listJobs);

/** When plans were last saved. */
export const watchPlans = watching(planVersions);
