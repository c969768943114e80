import { fileName } from '../../capture/url';
import { pictureUses } from '../../source/pictureUse';
import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';

/** A picture that is heavier than its own pixels need. */
export const imageHeavy: Check = {
  id: 'image-heavy',
  concern: 'weight',
  question: 'Are pictures heavier than their pixels need?',
  examines: 'Every JPEG, PNG and WebP file, re-encoded in its own format at its own size, and how alike the two are.',
  cannotSee: 'What other formats (WebP, AVIF) would save; files without a body in the capture.',
  fixedWhen: 'A new recording transfers the picture with about as many bytes as it has when re-encoded.',
  harms: ['slow', 'tidy'],
  standard: 'Best practice (no standard)',
  change: 'Export the picture again with a sensible quality, without metadata; let the build do it.',
  thresholds: [
    {
      id: 'savedBytes',
      name: 'bytes to be saved from',
      unit: 'bytes',
      value: 15_000,
      why: 'About 60 ms on a busy mobile network.',
    },
    { id: 'share', name: 'share to be saved from', unit: 'share', value: 0.25, why: 'Encoders differ by less.' },
  ],
  examine(subject) {
    const { page, sizes } = subject;
    return pictureUses(page).flatMap(({ load, picture, file }) => {
      const again = sizes.reencoded?.get(load.index);
      if (!again) return [];
      const saved = load.bodyBytes - again.bytes;
      if (saved < limitOf(this, subject, 'savedBytes') || saved < load.bodyBytes * limitOf(this, subject, 'share'))
        return [];
      return [
        finding({
          check: this,
          subject,
          harm: saved > 30_000 ? 'slow' : 'tidy',
          target: load.url,
          element: page.elementAt(picture.path),
          path: picture.path,
          load,
          numbers: {
            fileWidth: file.width,
            fileHeight: file.height,
            bytes: again.bytes,
            savedBytes: saved,
            similarity: again.similarity,
          },
          title: `${fileName(load.url)} weighs ${bytesText(load.bodyBytes)}, re-encoded at the same size ${bytesText(again.bytes)} (similarity ${again.similarity.toFixed(3)})`,
          plain: `The picture is saved with far more bytes than it needs: ${bytesText(again.bytes)} look the same.`,
        }),
      ];
    });
  },
};
