export { effectRangeText, effectText, timeRangeText as range, timeText as ms } from '../../core/handover/effectText';

export function bytes(value: number): string {
  if (value >= 999_950_000) return `${(value / 1e9).toFixed(2)} GB`;
  if (value >= 999_500) return `${(value / 1e6).toFixed(1)} MB`;
  if (value >= 1000) return `${Math.round(value / 1000)} kB`;
  return `${Math.round(value)} B`;
}

// Formatters are made once: making one takes far longer than using it.
const DAY = { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' } as const;
const days = new Intl.DateTimeFormat('en-GB', DAY);
const dayTimes = new Intl.DateTimeFormat('en-GB', { ...DAY, hour: '2-digit', minute: '2-digit' });
const numbers = new Intl.NumberFormat('en-GB');

/** "12 Nov 2026"; what is no date as it is. */
export const day = (iso: string): string => formatted(days, iso);

function formatted(format: Intl.DateTimeFormat, iso: string): string {
  const at = new Date(iso);
  return Number.isNaN(at.getTime()) ? iso : format.format(at);
}

/** "12 Nov 2026, 14:05 UTC": the same for everybody, as the days of sweeps are. */
export const dayTime = (iso: string): string => `${formatted(dayTimes, iso)} UTC`;

/** "1 page", "3 pages". */
export function count(n: number, one: string, many = one + 's'): string {
  return `${numbers.format(n)} ${n === 1 ? one : many}`;
}

/** "ten" below eleven, digits above. */
export function inWords(n: number): string {
  return ['No', 'One', 'Two', 'Three', 'Four', 'Five', 'Six', 'Seven', 'Eight', 'Nine', 'Ten'][n] ?? String(n);
}

/** Three-letter tag of a kind of load. */
export function tag(kind: string): string {
  return (
    {
      document: 'DOC',
      frame: 'FRM',
      style: 'CSS',
      script: 'SCR',
      image: 'IMG',
      font: 'FNT',
      media: 'MED',
      data: 'DAT',
      manifest: 'MAN',
    }[kind] ?? 'ETC'
  );
}
