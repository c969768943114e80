import { screenOf } from '../../source/media';
import { fileName } from '../../capture/url';
import { parseSrcset, sizesWidth } from '../../source/srcset';
import { finding, limitOf, type Check } from '../finding';

/** A srcset whose sizes promise another width than the picture is drawn at. */
export const srcsetSizes: Check = {
  id: 'srcset-sizes',
  concern: 'weight',
  question: 'Do srcset and sizes lead to the right file?',
  examines:
    'Width stated by sizes (the whole screen where it is absent) against the displayed width; gaps between the candidates.',
  cannotSee: 'Other screens than the recorded one; sizes=auto.',
  fixedWhen: 'A new recording displays the picture about as wide as its sizes state.',
  harms: ['tidy', 'slow'],
  standard: 'HTML, 4.8.4.2.2 (sizes) and 4.8.4.3.4 (selection)',
  change: 'State the displayed width in sizes for each layout, and offer a candidate near each.',
  thresholds: [
    {
      id: 'ratio',
      name: 'stated width over displayed width',
      unit: 'share',
      value: 1.25,
      why: 'A quarter more selects the next candidate in most sets.',
    },
    {
      id: 'bytes',
      name: 'slow from bytes to be saved',
      unit: 'bytes',
      value: 30_000,
      why: 'From here on a visitor notices the wasted bytes.',
    },
  ],
  examine(subject) {
    const { page } = subject;
    const { density } = page.capture.conditions;
    const screen = screenOf(page.capture.conditions);
    const ratio = limitOf(this, subject, 'ratio');
    return page.pictures.flatMap((p) => {
      if (p.use !== 'img' || !p.visible || p.box.width < 20) return [];
      const element = page.elementAt(p.path, 'img');
      const widths = parseSrcset(element?.attributes.get('srcset') ?? '')
        .flatMap((c) => (c.width === undefined ? [] : [c.width]))
        .sort((a, b) => a - b);
      const sizes = element?.attributes.get('sizes');
      if (!element || widths.length === 0 || /^\s*auto\b/i.test(sizes ?? '')) return [];
      const promised = sizesWidth(sizes, screen);
      const needed = p.box.width * density;
      const load = page.loadOf(p.url);
      const numbers = { promisedWidth: Math.round(promised), drawnWidth: Math.round(p.box.width) };
      const tell = (harm: 'tidy' | 'slow', title: string, plain: string) => [
        finding({ check: this, subject, harm, target: load?.url ?? p.url, element, load, numbers, title, plain }),
      ];
      const name = fileName(p.url);
      if (promised > p.box.width * ratio && promised - p.box.width >= 40) {
        const wasted = (load?.bodyBytes ?? 0) * (1 - (p.box.width / promised) ** 2);
        return tell(
          wasted > limitOf(this, subject, 'bytes') ? 'slow' : 'tidy',
          `${sizes === undefined ? 'Without sizes, the whole screen is' : `sizes is`} taken for the width of ${name}: ${Math.round(promised)} px, drawn ${Math.round(p.box.width)} px`,
          'The browser loads a larger file than it needs, since sizes states a wider picture.',
        );
      }
      if (promised * ratio < p.box.width)
        return tell(
          'tidy',
          `sizes states ${Math.round(promised)} px for ${name}, displayed ${Math.round(p.box.width)} px`,
          'The browser loads a smaller file than it displays: the picture is blurred.',
        );
      const enough = widths.find((w) => w >= needed);
      const before = widths.filter((w) => w < needed).at(-1);
      if (widths.length > 1 && enough !== undefined && enough > needed * 2 && (before ?? 0) < needed * 0.8)
        return tell(
          'tidy',
          `No candidate of ${name} is near the ${Math.round(needed)} px needed: the next is ${enough} px`,
          'The candidates are too far apart: the next larger one is twice the needed width.',
        );
      return [];
    });
  },
};
