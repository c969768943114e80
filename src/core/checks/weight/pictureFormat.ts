import { fileName } from '../../capture/url';
import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';

/** How many pictures a GIF shows one after the other (GIF89a, sections 20 and 23); 0 for what is no GIF. */
export function gifFrames(bytes: Uint8Array, most = 1000): number {
  const at = (i: number) => bytes[i] ?? 0;
  if (!(at(0) === 0x47 && at(1) === 0x49 && at(2) === 0x46)) return 0;
  let i = 13 + (at(10) & 0x80 ? 3 << ((at(10) & 7) + 1) : 0);
  const skipBlocks = () => {
    while (i < bytes.length && at(i) !== 0) i += at(i) + 1;
    i++;
  };
  let frames = 0;
  while (i < bytes.length && frames < most) {
    if (at(i) === 0x21) {
      i += 2;
      skipBlocks();
    } else if (at(i) === 0x2c) {
      frames++;
      const packed = at(i + 9);
      i += 10 + (packed & 0x80 ? 3 << ((packed & 7) + 1) : 0) + 1;
      skipBlocks();
    } else break;
  }
  return frames;
}

/** Moving pictures as GIF, and formats that are not made for the web. */
export const pictureFormat: Check = {
  id: 'picture-format',
  concern: 'weight',
  question: 'Are pictures in efficient formats?',
  examines: 'Frames of GIF files of 100 kB and more; BMP and TIFF by their first bytes.',
  cannotSee: 'What WebP or AVIF would make of a JPEG or PNG: that depends on the picture. Files without a body here.',
  fixedWhen: 'The page uses a video or a compressed picture, and the old file is no longer requested.',
  harms: ['slow'],
  standard: 'HTML, 4.8.8 (video) and 4.8.2 (picture)',
  change: 'Replace the GIF by a muted, looping video; pack BMP and TIFF as WebP or AVIF.',
  thresholds: [
    {
      id: 'gifBytes',
      name: 'size of a GIF from',
      unit: 'bytes',
      value: 100_000,
      why: 'Small animations are not worth a video.',
    },
  ],
  examine(subject) {
    const { page } = subject;
    return page.capture.loads.flatMap((load) => {
      if (load.kind !== 'image' || load.status !== 200) return [];
      const bytes = page.bodies.bytes(load);
      if (!bytes) return [];
      const frames = load.bodyBytes >= limitOf(this, subject, 'gifBytes') ? gifFrames(bytes) : 0;
      const raw = isRaw(bytes);
      if (frames < 2 && !raw) return [];
      return [
        finding({
          check: this,
          subject,
          harm: 'slow',
          target: load.url,
          element: page.mentionsOf(load.url)[0]?.element,
          load,
          numbers: { bytes: load.bodyBytes, frames },
          title: raw
            ? `${fileName(load.url)} is a ${raw} (${bytesText(load.bodyBytes)})`
            : `${fileName(load.url)} is an animated GIF of ${frames} frames (${bytesText(load.bodyBytes)})`,
          plain: raw
            ? 'This picture is in an uncompressed format that is not meant for the web.'
            : 'An animated GIF is many times larger than the same video.',
        }),
      ];
    });
  },
};

function isRaw(b: Uint8Array): 'BMP' | 'TIFF' | undefined {
  // The reserved bytes of a BMP header are 0, which tells it from text that begins with "BM".
  if (b[0] === 0x42 && b[1] === 0x4d && b[6] === 0 && b[7] === 0 && b[8] === 0 && b[9] === 0) return 'BMP';
  const tiff =
    (b[0] === 0x49 && b[1] === 0x49 && b[2] === 42 && b[3] === 0) ||
    (b[0] === 0x4d && b[1] === 0x4d && b[2] === 0 && b[3] === 42);
  return tiff ? 'TIFF' : undefined;
}
