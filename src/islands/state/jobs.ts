import { useEffect } from 'react';
import { create } from 'zustand';
import type { JobRow } from '../../engine/store/jobs';
import { ask } from './api';

interface PlanVersion {
  readonly id: number;
  readonly updatedAt: string;
}

interface Jobs {
  /** Undefined until the first list has come. */
  readonly jobs?: readonly JobRow[];
  /** When each plan was last saved, by its id. */
  readonly plans?: Readonly<Record<number, string>>;
  /** The stream is cut: what is shown may be old. */
  readonly cut: boolean;
  /** Starts listening, once for the whole application. */
  listen(): void;
}

let source: EventSource | undefined;
/** Jobs seen running in this window: their end is told. */
const underWay = new Set<number>();

const useStore = create<Jobs>((set) => ({
  cut: false,
  listen: () => {
    if (source) return;
    source = new EventSource('/api/jobs/events');
    source.addEventListener('jobs', (event) => {
      const { jobs } = JSON.parse((event as MessageEvent<string>).data) as { jobs: JobRow[] };
      for (const job of jobs) tell(job);
      set({ jobs, cut: false });
    });
    source.addEventListener('plans', (event) => {
      const { plans } = JSON.parse((event as MessageEvent<string>).data) as { plans: PlanVersion[] };
      set({ plans: Object.fromEntries(plans.map((p) => [p.id, p.updatedAt])) });
    });
    source.addEventListener('error', () => set({ cut: true }));
  },
}));

/** All jobs, kept up to date by server-sent events. */
export function useJobs(): { readonly jobs?: readonly JobRow[]; readonly cut: boolean } {
  const { jobs, cut, listen } = useStore();
  useEffect(listen, [listen]);
  return { jobs, cut };
}

/** When plans were last saved, by anybody; undefined until the server has said so. */
export function usePlanVersions(): Readonly<Record<number, string>> | undefined {
  const { plans, listen } = useStore();
  useEffect(listen, [listen]);
  return plans;
}

/** True for a job that has not ended. */
export const isOpen = (job: Pick<JobRow, 'state'>) => ['queued', 'running', 'paused'].includes(job.state);

/** Kinds that begin anew: pausing them would lose what was done. */
const ONE_GO: ReadonlySet<JobRow['kind']> = new Set(['import', 'move', 'probe', 'fates', 'changes']);

/** What a person may do with a job as it is. */
export function actionsOf(job: JobRow): readonly ('pause' | 'resume' | 'cancel' | 'retry')[] {
  if (job.wanted) return [];
  switch (job.state) {
    case 'queued':
    case 'running':
      return ONE_GO.has(job.kind) ? ['cancel'] : ['pause', 'cancel'];
    case 'paused':
      return ['resume', 'cancel'];
    case 'failed':
    case 'cancelled':
      return ['retry'];
    case 'done':
      return (job.progress?.failed ?? 0) > 0 ? ['retry'] : [];
  }
}

/** Asks for an action. @throws RequestError */
export function act(id: number, action: 'pause' | 'resume' | 'cancel' | 'retry'): Promise<JobRow> {
  return ask<JobRow>(`/api/jobs/${id}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ action }),
  });
}

/** Asks the browser once whether notices may be shown; call it from a click. */
export function allowNotices(): void {
  if ('Notification' in window && Notification.permission === 'default') void Notification.requestPermission();
}

function tell(job: JobRow): void {
  if (job.state === 'queued' || job.state === 'running') {
    underWay.add(job.id);
    return;
  }
  if (!underWay.delete(job.id) || job.kind === 'import' || job.state === 'paused') return;
  if (!('Notification' in window) || Notification.permission !== 'granted') return;
  const text =
    job.error?.what ?? `${(job.progress?.done ?? 0).toLocaleString('en-GB')} done, ${job.progress?.failed ?? 0} failed`;
  const notice = new Notification(`${job.title}: ${job.state}`, { body: text, tag: `job-${job.id}` });
  notice.onclick = () => window.focus();
}
