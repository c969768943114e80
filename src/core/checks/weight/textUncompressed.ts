import { header, type Capture, type Load } from '../../capture/capture';
import { fileName, originOf } from '../../capture/url';
import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';

/** Text sent without a content coding (RFC 9110, 8.4). */
export const textUncompressed: Check = {
  id: 'text-uncompressed',
  concern: 'weight',
  question: 'Is text sent compressed?',
  examines: 'Content-Encoding and transferred size of pages, styles, scripts, data and SVG; their size with gzip.',
  cannotSee: 'Brotli and Zstandard save more.',
  fixedWhen: 'The response has a Content-Encoding of gzip, br or zstd.',
  harms: ['slow', 'tidy'],
  standard: 'RFC 9110, 8.4; RFC 7932 (Brotli)',
  change: 'Enable gzip, br or zstd in the server for text types.',
  groupedBy: 'host',
  thresholds: [
    {
      id: 'savedBytes',
      name: 'bytes to be saved from',
      unit: 'bytes',
      value: 1_000,
      why: 'Less fits into the same packet.',
    },
  ],
  examine(subject) {
    const { page, sizes } = subject;
    const worth = limitOf(this, subject, 'savedBytes');
    const found = uncompressedTexts(page.capture).map((load) => {
      const bytes = sizes.compressed.get(load.index) ?? Math.round(load.bodyBytes * 0.27);
      return { load, bytes, saved: load.bodyBytes - bytes };
    });
    const hosts = new Set(found.filter((f) => f.saved >= worth).map((f) => originOf(f.load.url)));
    // Where compression is off for a host, its small files are part of the same setting.
    return found.flatMap(({ load, bytes, saved }) => {
      if (saved <= 0 || !hosts.has(originOf(load.url))) return [];
      return [
        finding({
          check: this,
          subject,
          harm: saved > 10_000 ? 'slow' : 'tidy',
          target: load.url,
          load,
          numbers: { bytes, savedBytes: saved, measured: sizes.compressed.has(load.index) ? 1 : 0 },
          title: `${fileName(load.url)} is sent without compression: ${bytesText(load.bodyBytes)}, with gzip ${bytesText(bytes)}`,
          plain: 'The server sends this text at full length although every browser accepts compression.',
        }),
      ];
    });
  },
};

/** Text under this, in bytes, does not get smaller. */
const SMALLEST = 150;

/** Text that arrived with status 200 and no content encoding, but for what compression would not make smaller. */
export function uncompressedTexts(capture: Pick<Capture, 'loads'>): Load[] {
  return capture.loads.filter((load) => {
    const textual =
      /^(text\/|application\/(javascript|x-javascript|json|xml|ld\+json|manifest\+json)|image\/svg)/.test(
        load.mimeType,
      ) ||
      load.kind === 'style' ||
      load.kind === 'script';
    if (!textual || load.status !== 200 || load.bodyBytes < SMALLEST) return false;
    // Where neither headers nor size were recorded nobody knows.
    if (load.headersUnseen && !header(load.responseHeaders, 'content-length')) return false;
    return !header(load.responseHeaders, 'content-encoding') && load.bodyBytes > load.decodedBytes * 0.9;
  });
}
