import type { Load } from '../capture/capture';
import { fileName } from '../capture/url';
import type { Page } from '../source/page';
import { scriptNamed, type ScriptDraft } from './drafts';

const WRITES = /\bdocument\s*\.\s*write(ln)?\s*\(/;
/** Priorities of scripts that the parser waits for; what a script inserts by other means has a lower one. */
const AWAITED: ReadonlySet<string> = new Set(['VeryHigh', 'High', 'Medium']);

/**
 * The script that wrote another one into the document by `document.write`, so that the parser waits for that as for one
 * of the markup (HTML, 8.4.3 and 13.2.6.4.4); -1 for none. Only scripts that the parser itself ran may write (HTML,
 * 8.4.3: others are ignored). Where the recording has no priorities, the script has to name the file.
 */
export function writerOf(page: Page, scripts: readonly ScriptDraft[], load: Load): number {
  const writer = scriptNamed(scripts, load.initiator);
  const script = scripts[writer];
  if (!script || (script.mode !== 'sync' && script.mode !== 'inline')) return -1;
  const file = script.fetch >= 0 && script.url ? page.loadOf(script.url) : undefined;
  const text =
    script.fetch < 0
      ? page.scripts.find((s) => !s.url && s.element.line === script.line)?.element.text
      : file && page.bodies.text(file);
  if (!text || !WRITES.test(text)) return -1;
  return (load.priority ? AWAITED.has(load.priority) : text.includes(fileName(load.url))) ? writer : -1;
}
