export { effectRangeText, effectText, timeRangeText as range, timeText as ms } from '../../core/handover/effectText';

export function bytes(value: number): string {
  if (value >= 999_950_000) return `${(value / 1e9).toFixed(2)} GB`;
  if (value >= 999_500) return `${(value / 1e6).toFixed(1)} MB`;
  if (value >= 1000) return `${Math.round(value / 1000)} kB`;
  return `${Math.round(value)} B`;
}

/** "12 Nov 2026". */
export function day(iso: string): string {
  return new Date(iso).toLocaleDateString('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    timeZone: 'UTC',
  });
}

/** "12 Nov 2026, 14:05 UTC": the same for everybody, as the days of sweeps are. */
export function dayTime(iso: string): string {
  const text = new Date(iso).toLocaleString('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    timeZone: 'UTC',
  });
  return `${text} UTC`;
}

/** "1 page", "3 pages". */
export function count(n: number, one: string, many = one + 's'): string {
  return `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`;
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
