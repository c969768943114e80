import { fileName } from '../../capture/url';
import { finding, type Check } from '../finding';
import { bytesText } from '../texts';

/** What a font file is by its first bytes (WOFF 2.0, section 4; OpenType, table directory). */
export function fontKind(b: Uint8Array): 'woff2' | 'woff' | 'truetype' | 'opentype' | 'eot' | undefined {
  const tag = String.fromCharCode(b[0] ?? 0, b[1] ?? 0, b[2] ?? 0, b[3] ?? 0);
  if (tag === 'wOF2') return 'woff2';
  if (tag === 'wOFF') return 'woff';
  if (tag === 'OTTO') return 'opentype';
  if (tag === 'true' || tag === '\u0000\u0001\u0000\u0000') return 'truetype';
  return b[34] === 0x4c && b[35] === 0x50 ? 'eot' : undefined;
}

/** Fonts in other formats than the smallest one that every browser takes. */
export const fontFormat: Check = {
  id: 'font-format',
  concern: 'weight',
  question: 'Are fonts in the smallest format that browsers support?',
  examines: 'The first bytes of every font that was loaded.',
  cannotSee: 'Which characters the site uses; fonts without a body in the capture.',
  fixedWhen: 'A new recording loads a WOFF 2 file instead.',
  harms: ['slow', 'tidy'],
  standard: 'WOFF File Format 2.0, 1',
  change: 'Convert the font to WOFF 2 and list it first in src.',
  examine(subject) {
    const { page } = subject;
    return page.capture.loads.flatMap((load) => {
      if (load.kind !== 'font' || load.status !== 200) return [];
      const bytes = page.bodies.bytes(load);
      const kind = bytes && fontKind(bytes);
      if (!kind || kind === 'woff2') return [];
      return [
        finding({
          check: this,
          subject,
          harm: load.bodyBytes > 20_000 ? 'slow' : 'tidy',
          target: load.url,
          load,
          numbers: { bytes: load.bodyBytes },
          title: `${fileName(load.url)} is ${kind === 'woff' ? 'WOFF 1' : kind === 'eot' ? 'EOT' : 'not a web font format'} (${bytesText(load.bodyBytes)}); WOFF 2 is smaller`,
          plain: 'This font is available in a smaller format that all current browsers support.',
        }),
      ];
    });
  },
};
