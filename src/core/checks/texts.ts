import type { Threshold } from './finding';

/** Bytes for people: kB and MB of 1000. */
export function bytesText(bytes: number): string {
  if (bytes >= 999_500) return `${(bytes / 1e6).toFixed(1)} MB`;
  if (bytes >= 1000) return `${Math.round(bytes / 1000)} kB`;
  return `${Math.round(bytes)} B`;
}

/** A limit with its unit, for people. */
export function limitText(threshold: Pick<Threshold, 'unit'>, value: number): string {
  switch (threshold.unit) {
    case 'bytes':
      return bytesText(value);
    case 's':
      return value >= 86_400 ? `${Math.round(value / 8640) / 10} days` : `${value} s`;
    case 'share':
      return `${Math.round(value * 100)} %`;
    case 'count':
      return String(value);
    default:
      return `${value} ${threshold.unit}`;
  }
}
