/** Screens of a site whose first content takes longest to read, the one that people open first in front. */
const SCREENS = ['', '/pages', '/concerns/https', '/concerns/mixed', '/concerns/hero', '/concerns/blocking'];

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
 */
export async function warmUp(origin: string): Promise<void> {
  const draw = (path: string) => fetch(origin + path, { redirect: 'manual' }).then(read, nothing);
  await draw('/recorders');
  const listed = (await fetch(`${origin}/api/sites`).then((r) => (r.ok ? r.json() : undefined), nothing)) as
    { sites: readonly Site[] } | undefined;
  const swept = (listed?.sites ?? []).filter((s) => s.sweep);
  const latest = swept.sort((a, b) => ((a.sweep?.day ?? '') < (b.sweep?.day ?? '') ? 1 : -1)).slice(0, SITES);
  for (const { id } of latest) for (const screen of SCREENS) await draw(`/sites/${id}${screen}`);
}

const read = (response: Response) => response.arrayBuffer().catch(nothing);
const nothing = () => undefined;
