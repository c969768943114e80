/**
 * Titles without what most of them end (or start) with, such as the site's name: "Talks" for
 * "Talks - Fernhollow Botanic Garden".
 */
export function shortTitles(titles: readonly string[]): string[] {
  const ends = new Map<string, number>();
  for (const t of titles) {
    const m = /\s[-–|·:]\s(?!.*\s[-–|·:]\s)(.+)$/.exec(t);
    if (m) ends.set(m[0], (ends.get(m[0]) ?? 0) + 1);
  }
  const [common] = [...ends].sort((a, b) => b[1] - a[1])[0] ?? [];
  const shared =
    common !== undefined && (ends.get(common) ?? 0) > titles.length / 2 && titles.length > 1 ? common : undefined;
  return titles.map((t) => (shared && t.endsWith(shared) && t.length > shared.length ? t.slice(0, -shared.length) : t));
}
