import { Cron } from 'croner';
import { InputError } from '../capture/errors';

/** What can be done by the clock. */
export const SCHEDULED = ['sweep', 'recordings', 'probe', 'changes'] as const;
export type Scheduled = (typeof SCHEDULED)[number];

/** When something is done by itself. */
export interface Schedule {
  readonly what: Scheduled;
  /** Five fields as in crontab(5): minute, hour, day of the month, month, day of the week. */
  readonly cron: string;
  /** IANA time zone in which the fields and the quiet hours count. */
  readonly zone: string;
  /** Nothing starts from `from` to before `to`, times of the day as HH:MM; it may span midnight. */
  readonly quiet?: QuietHours;
  readonly on: boolean;
}

export interface QuietHours {
  readonly from: string;
  readonly to: string;
}

/** Shortest time between two runs of one schedule, in minutes. */
export const LEAST_MINUTES = 15;

const TIME_OF_DAY = /^([01]\d|2[0-3]):[0-5]\d$/;

/**
 * Refuses a schedule that means nothing.
 * @throws InputError that names the field
 */
export function checkSchedule(schedule: Schedule): void {
  checkZone(schedule.zone);
  if (schedule.cron.trim().split(/\s+/).length !== 5)
    throw new InputError('A schedule has five fields.', 'cron', 'Write "0 3 * * 1" for Mondays at three.');
  let next: Date[];
  try {
    next = cronOf(schedule).nextRuns(50, new Date(Date.UTC(2026, 0, 1)));
  } catch (error) {
    throw new InputError(
      `The schedule is not understood: ${error instanceof Error ? error.message : String(error)}`,
      'cron',
      'Write five fields, such as "0 3 * * 1" for Mondays at three.',
    );
  }
  if (next.length === 0) throw new InputError('No such moment ever comes.', 'cron', 'Check day and month.');
  const closest = Math.min(...next.slice(1).map((d, i) => d.getTime() - (next[i] as Date).getTime()));
  if (closest < LEAST_MINUTES * 60_000)
    throw new InputError(`It would run more than once in ${LEAST_MINUTES} minutes.`, 'cron', 'State fewer minutes.');
  if (!schedule.quiet) return;
  for (const key of ['from', 'to'] as const)
    if (!TIME_OF_DAY.test(schedule.quiet[key]))
      throw new InputError(`"${schedule.quiet[key]}" is no time of the day.`, `quiet.${key}`, 'Write it like 22:00.');
  if (schedule.quiet.from === schedule.quiet.to)
    throw new InputError('These quiet hours last all day or not at all.', 'quiet', 'Let them end at another time.');
}

/**
 * The next moment at which a schedule starts, after a moment: the next that its fields name, moved to the end of the
 * quiet hours when it lies within them. Undefined for one that is off.
 */
export function nextStart(schedule: Schedule, after: Date): Date | undefined {
  if (!schedule.on) return undefined;
  const planned = cronOf(schedule).nextRun(after);
  return planned ? outOfQuiet(schedule, planned) : undefined;
}

/**
 * Whether a schedule has to start now. However many moments were missed while nothing ran, it starts once.
 * @param last when it last started, or was made
 */
export function isDue(schedule: Schedule, last: Date, now: Date): boolean {
  const next = nextStart(schedule, last);
  return next !== undefined && next <= now && !inQuiet(schedule, now);
}

function cronOf({ cron, zone }: Pick<Schedule, 'cron' | 'zone'>): Cron {
  return new Cron(cron.trim(), { timezone: zone, paused: true });
}

function checkZone(zone: string): void {
  try {
    new Intl.DateTimeFormat('en-GB', { timeZone: zone });
  } catch {
    throw new InputError(`There is no time zone "${zone}".`, 'zone', 'Write one like Europe/Berlin, or UTC.');
  }
}

const minutesOf = (time: string) => Number(time.slice(0, 2)) * 60 + Number(time.slice(3));

/** Minutes since midnight on the clocks of a zone. */
function minuteOfDay(zone: string, at: Date): number {
  const text = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
  }).format(at);
  return minutesOf(text);
}

/** Minutes until the quiet hours that a moment lies in are over; 0 outside of them. */
function quietMinutes({ quiet, zone }: Schedule, at: Date): number {
  if (!quiet) return 0;
  const now = minuteOfDay(zone, at);
  const from = minutesOf(quiet.from);
  const to = minutesOf(quiet.to);
  const inside = from < to ? now >= from && now < to : now >= from || now < to;
  return inside ? (to - now + 1440) % 1440 : 0;
}

const inQuiet = (schedule: Schedule, at: Date): boolean => quietMinutes(schedule, at) > 0;

function outOfQuiet(schedule: Schedule, planned: Date): Date {
  let at = planned;
  // Twice where clocks are put forward or back within the quiet hours.
  for (let i = 0; i < 3; i++) {
    const minutes = quietMinutes(schedule, at);
    if (minutes === 0) break;
    at = new Date(at.getTime() + minutes * 60_000);
  }
  return at;
}
