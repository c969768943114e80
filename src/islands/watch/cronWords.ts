/** How often something is done, as people choose it. */
export type Rhythm =
  | { readonly every: 'day'; readonly time: string }
  /** 0 is Sunday. */
  | { readonly every: 'week'; readonly weekday: number; readonly time: string }
  | { readonly every: 'month'; readonly day: number; readonly time: string }
  | { readonly every: 'own'; readonly cron: string };

export const WEEKDAYS = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday'] as const;

/** The five fields of a rhythm, as in crontab(5). */
export function cronOf(rhythm: Rhythm): string {
  if (rhythm.every === 'own') return rhythm.cron;
  const [hour, minute] = rhythm.time.split(':').map(Number);
  const at = `${minute ?? 0} ${hour ?? 0}`;
  if (rhythm.every === 'day') return `${at} * * *`;
  return rhythm.every === 'week' ? `${at} * * ${rhythm.weekday}` : `${at} ${rhythm.day} * *`;
}

/** The rhythm that five fields stand for. */
export function rhythmOf(cron: string): Rhythm {
  const m = /^(\d{1,2}) (\d{1,2}) (\*|\d{1,2}) \* (\*|[0-7])$/.exec(cron.trim());
  if (!m) return { every: 'own', cron };
  const [, minute = '', hour = '', day = '', weekday = ''] = m;
  const time = `${hour.padStart(2, '0')}:${minute.padStart(2, '0')}`;
  if (day === '*' && weekday === '*') return { every: 'day', time };
  if (day === '*') return { every: 'week', weekday: Number(weekday) % 7, time };
  return weekday === '*' ? { every: 'month', day: Number(day), time } : { every: 'own', cron };
}

/** Five fields in words: "every Monday at 03:00"; what is not that plain stays as it is written. */
export function cronWords(cron: string): string {
  const rhythm = rhythmOf(cron);
  switch (rhythm.every) {
    case 'day':
      return `every day at ${rhythm.time}`;
    case 'week':
      return `every ${WEEKDAYS[rhythm.weekday] ?? ''} at ${rhythm.time}`;
    case 'month':
      return `on day ${rhythm.day} of each month at ${rhythm.time}`;
    case 'own':
      return `as "${rhythm.cron}"`;
  }
}
