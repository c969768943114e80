import { recordPages } from '../../src/engine/record/record';
import { harFile } from '../../src/engine/record/writeHar';
import { parseVisitor } from '../../src/core/load/visitors';
import { VERSION } from '../../src/core/version';
import { serveSituations, situationUrl } from '../../test/fixtures/pages/serve';
import { listSituations, saveRecordings, type Device } from '../../test/fixtures/pages/situations';

/** Records every situation of a folder as phone and desktop, both at a time: what is judged here is not time. */
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
          visitor: parseVisitor(device === 'phone' ? 'phone-busy' : 'desktop'),
          mapHosts: server.map,
          acceptAnyCertificate: true,
          waitMs: 1500,
          timeoutMs: 15_000,
          onProgress: (url) => console.error(`${device} ${++n} of ${names.length}: ${url}`),
        });
        saveRecordings(folder, device, withoutWeight(harFile(pages, VERSION)));
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
