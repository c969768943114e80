import { redirectInFront } from './blocking/redirectInFront';
import { scriptBlocking } from './blocking/scriptBlocking';
import { styleBlocking } from './blocking/styleBlocking';
import { documentWrite } from './blocking/documentWrite';
import { fontDisplay } from './blocking/fontDisplay';
import { serverWait } from './blocking/serverWait';
import { duplicateBody } from './weight/duplicateBody';
import { fontFormat } from './weight/fontFormat';
import { inlinedData } from './weight/inlinedData';
import { loadFailed } from './weight/loadFailed';
import { pictureFormat } from './weight/pictureFormat';
import { cacheShort } from './weight/cachePolicy';
import { textUnminified } from './weight/textUnminified';
import { libraryTwice } from './weight/libraryTwice';
import { htmlLarge } from './weight/htmlLarge';
import { inlineScript } from './blocking/inlineScript';
import type { Check, Finding, Subject } from './finding';
import { heroLate } from './hero/heroLate';
import { heroLazy } from './hero/heroLazy';
import { heroPriority } from './hero/heroPriority';
import { httpEntrance } from './https/httpEntrance';
import { httpMention } from './https/httpMention';
import { mixedLoad } from './mixed/mixedLoad';
import { mixedMarkup } from './mixed/mixedMarkup';
import { mixedStyle } from './mixed/mixedStyle';
import { imageOversized } from './weight/imageOversized';
import { offscreenEager } from './weight/offscreenEager';
import { textUncompressed } from './weight/textUncompressed';

/** Every check, in the order in which concerns and findings are listed. */
export const CHECKS: readonly Check[] = [
  httpEntrance,
  httpMention,
  mixedMarkup,
  mixedStyle,
  mixedLoad,
  heroLazy,
  heroLate,
  heroPriority,
  imageOversized,
  textUncompressed,
  offscreenEager,
  loadFailed,
  duplicateBody,
  pictureFormat,
  inlinedData,
  fontFormat,
  textUnminified,
  libraryTwice,
  htmlLarge,
  cacheShort,
  scriptBlocking,
  styleBlocking,
  redirectInFront,
  fontDisplay,
  documentWrite,
  inlineScript,
  serverWait,
];

/** Runs every check on one page. The same id twice (two like mentions in one tag) counts once. */
export function examinePage(subject: Subject): Finding[] {
  const seen = new Set<string>();
  return CHECKS.flatMap((check) => check.examine(subject)).filter((f) => !seen.has(f.id) && seen.add(f.id));
}
