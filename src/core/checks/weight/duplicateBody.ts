import type { Load } from '../../capture/capture';
import { fileName } from '../../capture/url';
import { finding, type Check } from '../finding';
import { bytesText } from '../texts';

/** The same file fetched under two addresses. */
export const duplicateBody: Check = {
  id: 'duplicate-body',
  concern: 'weight',
  question: 'Is the same file loaded under more than one URL?',
  examines: 'Bodies of all loads of 1 kB and more, byte by byte.',
  cannotSee: 'Files whose body is not in the capture; copies that differ in a byte.',
  fixedWhen: 'A new recording loads the content from one URL only.',
  harms: ['slow', 'tidy'],
  standard: 'RFC 3986, 6.2; RFC 9111, 2',
  change: 'Use one URL for the file everywhere.',
  examine(subject) {
    const { page } = subject;
    const known = new Map<string, { load: Load; bytes: Uint8Array }[]>();
    return page.capture.loads.flatMap((load) => {
      if (load.status !== 200 || load.decodedBytes < 1000) return [];
      const bytes = page.bodies.bytes(load);
      if (!bytes || bytes.length < 1000) return [];
      const key = `${bytes.length} ${bytes[0] ?? 0} ${bytes[bytes.length >> 1] ?? 0}`;
      const alike = known.get(key) ?? [];
      known.set(key, alike);
      const first = alike.find((a) => sameBytes(a.bytes, bytes));
      if (!first) {
        alike.push({ load, bytes });
        return [];
      }
      if (first.load.url === load.url) return [];
      return [
        finding({
          check: this,
          subject,
          harm: load.bodyBytes > 10_000 ? 'slow' : 'tidy',
          target: load.url,
          element: page.mentionsOf(load.url)[0]?.element,
          load,
          numbers: { bytes: load.bodyBytes, savedBytes: load.bodyBytes },
          title: `${fileName(load.url)} is the same file as ${first.load.url} (${bytesText(load.bodyBytes)})`,
          plain: 'The same content is transferred twice, since the page uses two URLs for it.',
        }),
      ];
    });
  },
};

function sameBytes(a: Uint8Array, b: Uint8Array): boolean {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
}
