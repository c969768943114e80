import { recordPages } from '../../src/engine/record/record';
import { harFile } from '../../src/engine/record/writeHar';
import { visitorWith } from '../../src/core/load/visitors';
import { VERSION } from '../../src/core/version';
import { serveSituations, situationUrl } from '../../test/fixtures/pages/serve';
import { type Device, listSituations, readHarText, saveRecordings } from '../../test/fixtures/pages/situations';

/**
 * Records the situations of a folder as phone and desktop, both at a time: what is judged here is not time. With `only`,
 * recordings of the others are kept.
 */
export async function recordSituations(folder: string, only?: RegExp): Promise<void> {
  const names = listSituations(folder)
    .map((s) => s.name)
    .filter((n) => !only || only.test(n));
  const server = await serveSituations([folder]);
  try {
    await Promise.all(
      (['phone', 'desktop'] as const).map(async (device: Device) => {
        let n = 0;
        const pages = await recordPages(names.map(situationUrl), {
          visitor: visitorWith(device),
          mapHosts: server.map,
          acceptAnyCertificate: true,
          waitMs: 1500,
          timeoutMs: 15_000,
          onProgress: (url) => console.error(`${device} ${++n} of ${names.length}: ${url}`),
        });
        const har = withoutWeight(harFile(pages, VERSION));
        saveRecordings(folder, device, only ? withOthers(har, readHarText(folder, device)) : har);
      }),
    );
  } finally {
    await server.close();
  }
}

/** Leaves out what nothing here is judged by. */
function withoutWeight(har: string): string {
  return JSON.stringify(JSON.parse(har), (key, value: unknown) =>
    key === 'screenshot' || key === 'work' || key === 'serverIPAddress' ? undefined : value,
  );
}

interface Har {
  readonly log: {
    readonly pages: { id: string; title: string }[];
    readonly entries: { pageref: string; request: { url: string } }[];
  };
}

/** A HAR with the pages of another that it does not have itself. */
function withOthers(har: string, before: string): string {
  const own = JSON.parse(har) as Har;
  const old = JSON.parse(before) as Har;
  const first = (of: Har, id: string) => of.log.entries.find((e) => e.pageref === id)?.request.url ?? '';
  const again = new Set(own.log.pages.map((p) => first(own, p.id)));
  const kept = new Set(old.log.pages.filter((p) => !again.has(first(old, p.id))).map((p) => p.id));
  const renamed = (id: string) => `new_${id}`;
  return JSON.stringify({
    log: {
      ...own.log,
      pages: [
        ...old.log.pages.filter((p) => kept.has(p.id)),
        ...own.log.pages.map((p) => ({ ...p, id: renamed(p.id) })),
      ],
      entries: [
        ...old.log.entries.filter((e) => kept.has(e.pageref)),
        ...own.log.entries.map((e) => ({ ...e, pageref: renamed(e.pageref) })),
      ],
    },
  });
}
