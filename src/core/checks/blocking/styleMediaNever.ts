import { fileName } from '../../capture/url';
import { neverMatches } from '../../source/media';
import { finding, type Check } from '../finding';
import { bytesText } from '../texts';

/** Stylesheets that no screen of today takes. */
export const styleMediaNever: Check = {
  id: 'style-media-never',
  concern: 'blocking',
  question: 'Are stylesheets loaded that never apply?',
  examines: 'media of stylesheet links: obsolete types, and contradictory widths.',
  cannotSee: 'Rules inside a stylesheet whose media never match.',
  fixedWhen: 'The link is gone, or has media that can match. Print stylesheets are fine.',
  harms: ['tidy'],
  standard: 'Media Queries 4, 2.3; HTML, 4.6.7.20 (stylesheet)',
  change: 'Remove the link.',
  examine(subject) {
    const { page } = subject;
    return page.mentions.flatMap((m) => {
      const media = m.element.attributes.get('media');
      if (m.kind !== 'style' || m.element.tag !== 'link' || m.element.inert || !neverMatches(media)) return [];
      const load = page.loadOf(m.url);
      return [
        finding({
          check: this,
          subject,
          harm: 'tidy',
          target: m.url,
          element: m.element,
          load,
          numbers: { bytes: load?.bodyBytes ?? 0 },
          title: `${fileName(m.url)} is for media="${(media ?? '').slice(0, 60)}", which matches no screen${load ? ` (${bytesText(load.bodyBytes)})` : ''}`,
          plain: 'The browser loads this file, last of all, and never uses it.',
        }),
      ];
    });
  },
};
