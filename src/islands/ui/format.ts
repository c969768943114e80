/** Milliseconds for people: "640 ms" below one second, "6.4 s" above, never more digits than are known. */
export function ms(value: number): string {
  const a = Math.abs(value);
  if (a < 950) return `${Math.round(value / 10) * 10} ms`;
  return `${(value / 1000).toFixed(1)} s`;
}

/** A change with its sign: "−1.5 s", "+120 ms", "no change" below what could be told from noise. */
export function change(value: number): string {
  if (Math.abs(value) < 40) return 'about 0';
  return (value < 0 ? '−' : '+') + ms(Math.abs(value));
}

/** "3.3–3.9 s". */
export function range([low, high]: readonly [number, number]): string {
  if (ms(low) === ms(high)) return ms(high);
  if (high < 950) return `${Math.round(low / 10) * 10}–${ms(high)}`;
  return `${(low / 1000).toFixed(1)}–${(high / 1000).toFixed(1)} s`;
}

/** The range of a change without its sign where both ends agree on it: "2.4–3.1 s"; else "−220 to +30 ms". */
export function changeRange([low, high]: readonly [number, number]): string {
  if (high <= 0) return range([-high, -low]);
  if (low >= 0) return range([low, high]);
  return `−${ms(-low)} to +${ms(high)}`;
}

export function bytes(value: number): string {
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

export function dayTime(iso: string): string {
  return new Date(iso).toLocaleString('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
  });
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
