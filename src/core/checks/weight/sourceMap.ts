import { fileName, hostOf } from '../../capture/url';
import { finding, type Check } from '../finding';

/** Source maps that were published along with the code. */
export const sourceMap: Check = {
  id: 'source-map',
  concern: 'weight',
  question: 'Are source maps published?',
  examines: 'Maps among the loads, and scripts and styles that name one in their last line.',
  cannotSee: 'Whether the named map exists: visitors’ browsers do not request it.',
  fixedWhen: 'The build does not publish the map or the line that names it.',
  harms: ['tidy'],
  standard: 'Source Map (ECMA-426), 11.1',
  change: 'Do not publish source maps: build with hidden maps, or serve them to developers only.',
  groupedBy: 'host',
  examine(subject) {
    const { page } = subject;
    return page.capture.loads.flatMap((load) => {
      if (load.status !== 200) return [];
      const isMap = /\.map$/i.test(load.url.split(/[?#]/)[0] ?? '');
      const text = load.kind === 'script' || load.kind === 'style' ? page.bodies.text(load) : undefined;
      // The line stands at the end; the whole of a large file need not be searched.
      const named = text && /[#@]\s*sourceMappingURL=(?!data:)(\S+)/.exec(text.slice(-600))?.[1];
      if (!isMap && !named) return [];
      return [
        finding({
          check: this,
          subject,
          harm: 'tidy',
          target: load.url,
          load,
          numbers: { bytes: isMap ? load.bodyBytes : 0 },
          title: isMap
            ? `${fileName(load.url)} of ${hostOf(load.url)} is loaded by visitors`
            : `${fileName(load.url)} names its source map (${fileName(named ?? '')})`,
          plain: isMap
            ? 'Visitors load what only developers need.'
            : 'Everybody can read the original code, comments included. It costs visitors nothing.',
        }),
      ];
    });
  },
};
