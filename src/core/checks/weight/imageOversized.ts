import { fileName } from '../../capture/url';
import { pictureUses } from '../../source/pictureUse';
import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';

/** A picture with more pixels than its place on the screen can show. */
export const imageOversized: Check = {
  id: 'image-oversized',
  concern: 'weight',
  question: 'Do pictures have more pixels than this screen displays?',
  examines:
    'File pixels against displayed pixels times screen density; the size of the picture re-encoded at that size.',
  cannotSee: 'Pictures in files that were captured without observations; larger uses on other pages.',
  fixedWhen: 'A new recording loads at most one and a half times the pixels that are displayed.',
  harms: ['slow', 'tidy'],
  standard: 'HTML, 4.8.4.2 (srcset, sizes)',
  change: 'Offer the picture in several widths by srcset and sizes, none wider than displayed.',
  thresholds: [
    {
      id: 'savedBytes',
      name: 'bytes to be saved from',
      unit: 'bytes',
      value: 8_000,
      why: 'Fewer bytes are not noticeable: about 30 ms on a busy mobile network.',
    },
  ],
  examine(subject) {
    const { page, sizes } = subject;
    return pictureUses(page).flatMap(({ load, picture, file, needed }) => {
      const share = (needed.width * needed.height) / (file.width * file.height);
      const bytes = sizes.resized.get(load.index) ?? Math.round(load.bodyBytes * Math.max(share, 0.02));
      const element = page.elementAt(picture.path);
      // Candidates of a srcset come in steps: the next larger one is right.
      const enough = element?.attributes.has('srcset') ? 1 / 1.5 : 0.95;
      // What the same size re-encoded would save is another finding (image-heavy): only the pixels count here.
      const asIs = Math.min(load.bodyBytes, sizes.reencoded?.get(load.index)?.bytes ?? load.bodyBytes);
      const saved = asIs - bytes;
      if (saved < limitOf(this, subject, 'savedBytes') || share > enough) return [];
      return [
        finding({
          check: this,
          subject,
          harm: saved > 30_000 ? 'slow' : 'tidy',
          target: load.url,
          element,
          path: picture.path,
          load,
          numbers: {
            fileWidth: file.width,
            fileHeight: file.height,
            neededWidth: needed.width,
            neededHeight: needed.height,
            bytes,
            savedBytes: saved,
            measured: sizes.resized.has(load.index) ? 1 : 0,
          },
          title: `${fileName(load.url)} is ${file.width} x ${file.height} px, ${needed.width} x ${needed.height} px is enough`,
          plain: `The picture has more pixels than this screen shows: ${bytesText(saved)} are wasted.`,
        }),
      ];
    });
  },
};
