import { fileName, hostOf } from '../../capture/url';
import { placeOf } from '../../source/document';
import { finding, type Check } from '../finding';

/** Scripts that write into the page while it is read. */
export const documentWrite: Check = {
  id: 'document-write',
  concern: 'blocking',
  question: 'Do scripts use document.write to load files?',
  examines: 'document.write and document.writeln with a script or stylesheet in what they write (HTML, 8.4.3).',
  cannotSee: 'Indirect calls, or calls in scripts without a body in the capture.',
  fixedWhen: 'The files are in the markup, and no script writes them.',
  harms: ['slow'],
  standard: 'HTML, 8.4.3',
  change: 'Put the files in the markup, or add them with a script that does not block the parser.',
  examine(subject) {
    const { page } = subject;
    return page.scripts.flatMap((script) => {
      if (script.element.inert || script.mode === 'async' || script.mode === 'defer') return [];
      const load = script.url === undefined ? undefined : page.loadOf(script.url);
      const document = page.document;
      const text =
        script.mode === 'inline'
          ? document?.text.slice(script.element.startTagEnd, script.element.end)
          : load && page.bodies.text(load);
      const call = text === undefined ? null : /\bdocument\s*\.\s*write(?:ln)?\s*\(([^;]{0,400})/.exec(text);
      if (!text || !call || !/<\s*(script|link)\b|<scr|\\x3cscript|%3Cscript/i.test(call[1] ?? '')) return [];
      const line = script.mode === 'inline' ? script.element.line : placeOf(text, call.index).line;
      return [
        finding({
          check: this,
          subject,
          harm: 'slow',
          target: script.url ?? page.capture.page,
          element: script.element,
          load,
          numbers: { line },
          title: script.url
            ? `${fileName(script.url)} of ${hostOf(script.url)} adds files with document.write (line ${line})`
            : 'An inline script adds files with document.write',
          plain: 'The browser discovers these files only when the script runs, and stops parsing until they arrive.',
        }),
      ];
    });
  },
};
