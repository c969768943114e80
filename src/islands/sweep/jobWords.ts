import type { JobRow } from '../../engine/store/jobs';
import { bytes, count } from '../ui/format';

/** How far a job is, 0 to 1; undefined when nothing is known yet. */
export function jobShare(job: JobRow): number | undefined {
  const p = job.progress;
  return p && p.total > 0 ? Math.min(1, p.done / p.total) : undefined;
}

/** A job in one line: how far, how fast, how long still. */
export function jobLine(job: JobRow): string {
  if (job.state === 'queued') return job.place ? `queued behind ${count(job.place, 'job')}` : 'starts in a moment';
  if (job.error) return job.error.what;
  const p = job.progress;
  if (!p) return job.phase ?? '';
  const parts = [job.phase ?? '', p.total > 0 ? `${number(p.done)} of ${number(p.total)}` : ''];
  if (job.state === 'running') parts.push(rate(p.perSecond), left(p.secondsLeft));
  if (p.failed > 0) parts.push(`${number(p.failed)} failed`);
  return parts.filter(Boolean).join(' · ');
}

const number = (n: number) => n.toLocaleString('en-GB');

/** "180 a second", "2 a minute"; empty when not known. */
export function rate(perSecond: number | undefined): string {
  if (!perSecond) return '';
  if (perSecond >= 10) return `${Math.round(perSecond)} a second`;
  if (perSecond >= 1) return `${perSecond.toFixed(1)} a second`;
  return `${Math.max(1, Math.round(perSecond * 60))} a minute`;
}

/** "about 3 min left"; empty when not known. */
export function left(seconds: number | undefined): string {
  if (seconds === undefined || !Number.isFinite(seconds)) return '';
  if (seconds < 5) return 'a few seconds left';
  if (seconds < 90) return `about ${Math.round(seconds / 5) * 5} s left`;
  if (seconds < 5400) return `about ${Math.round(seconds / 60)} min left`;
  return `about ${(seconds / 3600).toFixed(1)} h left`;
}

/** Time between two moments: "48 s", "3 min 20 s", "2 h 5 min". */
export function lasted(from: string, to: string | null): string {
  const s = Math.max(0, Math.round((Date.parse(to ?? new Date().toISOString()) - Date.parse(from)) / 1000));
  if (s < 60) return `${s} s`;
  if (s < 3600) return `${Math.floor(s / 60)} min ${s % 60} s`;
  return `${Math.floor(s / 3600)} h ${Math.floor((s % 3600) / 60)} min`;
}

/** Counts of a running sweep, in words. */
export const COUNTS: readonly { key: string; name: string; means: string; format?: (n: number) => string }[] = [
  { key: 'known', name: 'addresses known', means: 'Found so far by links, sitemaps, lists and redirects.' },
  { key: 'redirects', name: 'redirects', means: 'Pages that answered with a redirect or send on by meta refresh.' },
  { key: 'missing', name: 'answered with an error', means: 'Status 400 and above.' },
  { key: 'mentions', name: 'http:// URLs', means: 'Places in the source that name an http:// URL.' },
  { key: 'skipped', name: 'left out', means: 'By robots.txt, noindex or the limits of the sweep.' },
  { key: 'bytes', name: 'transferred', means: 'Bodies as transferred.', format: bytes },
  { key: 'captures', name: 'recorded', means: 'Captures made by a real browser.' },
];
