import type { Load } from '../../capture/capture';
import { fileName } from '../../capture/url';
import { finding, type Check } from '../finding';
import { bytesText } from '../texts';

/** Name and version that a script states of itself in its first comment, in lower case. */
export function statedLibrary(text: string): { name: string; version: string } | undefined {
  const comment = /^\s*(?:"use strict";\s*)?\/\*[!*]?([\s\S]{0,400}?)\*\//.exec(text.slice(0, 600))?.[1];
  const m =
    comment &&
    /(?:^|[\n*])\s*([A-Za-z][\w.-]*(?: [A-Za-z][\w.-]*){0,3}?),? v?(\d+\.\d+(?:\.\d+)?)(?=[\s,;)]|$)/.exec(comment);
  return m?.[1] && m[2]
    ? { name: m[1].toLowerCase().replace(/ (javascript )?library$/, ''), version: m[2] }
    : undefined;
}

/** Two versions of one library on a page. */
export const libraryTwice: Check = {
  id: 'library-twice',
  concern: 'weight',
  question: 'Does the page load one library in two versions?',
  examines: 'Names and versions that scripts state in their first comment.',
  cannotSee: 'Libraries bundled into other files, or without a name in their first comment.',
  fixedWhen: 'A new recording loads one of the two.',
  harms: ['slow'],
  standard: 'Best practice (no standard)',
  change: 'Keep the newer version for both uses.',
  examine(subject) {
    const { page } = subject;
    const known = new Map<string, { load: Load; version: string }>();
    return page.capture.loads.flatMap((load) => {
      const text = load.kind === 'script' && load.status === 200 ? page.bodies.text(load) : undefined;
      const stated = text === undefined ? undefined : statedLibrary(text);
      if (!stated) return [];
      const first = known.get(stated.name);
      if (!first) known.set(stated.name, { load, version: stated.version });
      if (!first || first.version === stated.version) return [];
      return [
        finding({
          check: this,
          subject,
          harm: 'slow',
          target: load.url,
          element: page.mentionsOf(load.url)[0]?.element,
          load,
          numbers: { bytes: load.bodyBytes, savedBytes: load.bodyBytes },
          title: `${stated.name} is loaded twice: ${first.version} (${fileName(first.load.url)}) and ${stated.version} (${fileName(load.url)}, ${bytesText(load.bodyBytes)})`,
          plain: 'Visitors load and run the same library in two versions.',
        }),
      ];
    });
  },
};
