/** Screens of a site whose first content takes longest to read, the one that people open first in front. */
const SCREENS = ['', '/pages', '/concerns/https', '/concerns/mixed', '/concerns/hero', '/concerns/blocking'];

/** How the requests made here name themselves (RFC 9110, 10.1.5). */
export const WARM_UP = 'keen-lens-warm-up';

/** How long to wait before looking again whether nobody is being served, in ms, and how often at most. */
const AGAIN_MS = 250;
const MOST_WAITS = 400;

/** Sites whose screens are drawn: those that were swept last. */
const SITES = 2;

interface Site {
  readonly id: number;
  readonly sweep?: { readonly day: string };
}

/**
 * Draws screens for nobody, one after the other: whoever comes first finds the modules of all screens read, and what the
 * latest sweeps say in memory. Where people log in only the modules are read.
 * @param origin where the server listens
 * @param isQuiet nobody else has asked for anything for a while: they are not kept waiting by this
 */
export async function warmUp(origin: string, isQuiet: () => boolean): Promise<void> {
  const ask = (path: string) => fetch(origin + path, { redirect: 'manual', headers: { 'user-agent': WARM_UP } });
  const draw = (path: string) => ask(path).then(read, nothing);
  await draw('/recorders');
  const listed = (await ask('/api/sites')
    .then((r) => (r.ok ? r.json() : undefined))
    .catch(nothing)) as { sites: readonly Site[] } | undefined;
  const swept = (listed?.sites ?? []).filter((s) => s.sweep);
  const latest = swept.sort((a, b) => ((a.sweep?.day ?? '') < (b.sweep?.day ?? '') ? 1 : -1)).slice(0, SITES);
  let waits = 0;
  for (const { id } of latest)
    for (const screen of SCREENS) {
      for (; !isQuiet() && waits < MOST_WAITS; waits++) await new Promise((done) => setTimeout(done, AGAIN_MS).unref());
      if (waits < MOST_WAITS) await draw(`/sites/${id}${screen}`);
    }
}

const read = (response: Response) => response.arrayBuffer().catch(nothing);
const nothing = () => undefined;
