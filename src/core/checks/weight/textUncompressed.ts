import { type Load, header } from '../../capture/capture';
import { fileName } from '../../capture/url';
import { bytesText, finding, limitOf, type Check } from '../finding';

/** Text sent without a content coding (RFC 9110, 8.4). */
export const textUncompressed: Check = {
  id: 'text-uncompressed',
  concern: 'weight',
  question: 'Is text sent compressed?',
  looksAt: 'Content-Encoding and transferred size of pages, styles, scripts, data and SVG; what gzip makes of them.',
  cannotSee: 'Better codings (Brotli, Zstandard) would save some more.',
  fixedWhen: 'The response has a Content-Encoding of gzip, br or zstd.',
  harms: ['slow', 'tidy'],
  standard: 'RFC 9110, 8.4; RFC 7932 (Brotli)',
  change: 'Switch on gzip, br or zstd in the server for text types.',
  groupedBy: 'host',
  thresholds: [
    {
      id: 'savedBytes',
      name: 'bytes to be saved from',
      unit: 'bytes',
      value: 1_000,
      why: 'Less fits into the packet that is sent anyway.',
    },
  ],
  examine(subject) {
    const { page, sizes } = subject;
    return page.capture.loads.filter(isUncompressedText).flatMap((load) => {
      const bytes = sizes.compressed.get(load.index) ?? Math.round(load.bodyBytes * 0.27);
      const saved = load.bodyBytes - bytes;
      if (saved < limitOf(this, subject, 'savedBytes')) return [];
      return [
        finding({
          check: this,
          subject,
          harm: saved > 10_000 ? 'slow' : 'tidy',
          target: load.url,
          load,
          numbers: { bytes, savedBytes: saved, measured: sizes.compressed.has(load.index) ? 1 : 0 },
          title: `${fileName(load.url)} is sent without compression: ${bytesText(load.bodyBytes)}, gzip makes it ${bytesText(bytes)}`,
          plain: 'The server sends this text at full length although every browser takes it packed.',
        }),
      ];
    });
  },
};

/** Text kinds that arrived with status 200, over 1.4 kB, and no content coding. */
export function isUncompressedText(load: Load): boolean {
  const textual =
    /^(text\/|application\/(javascript|x-javascript|json|xml|ld\+json|manifest\+json)|image\/svg)/.test(
      load.mimeType,
    ) ||
    load.kind === 'style' ||
    load.kind === 'script';
  if (!textual || load.status !== 200 || load.bodyBytes < 1_400) return false;
  if (header(load.responseHeaders, 'content-encoding')) return false;
  return load.bodyBytes > load.decodedBytes * 0.9;
}
