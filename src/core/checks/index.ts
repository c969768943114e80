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

import { hsts } from './https/hsts';
import { certificate } from './https/certificate';
import { cookieInsecure } from './https/cookieInsecure';
import { addressForm } from './https/addressForm';
import { mixedForm } from './mixed/mixedForm';
import { mixedHint } from './mixed/mixedHint';
import { mixedMasked } from './mixed/mixedMasked';
import { heroHidden } from './hero/heroHidden';
import { heroDialog } from './hero/heroDialog';
import { heroSlides } from './hero/heroSlides';
import { heroFont } from './hero/heroFont';
import { heroPreload } from './hero/heroPreload';
import { heroOtherHost } from './hero/heroOtherHost';
import { imageDimensions } from './hero/imageDimensions';
import { srcsetSizes } from './weight/srcsetSizes';
import { pictureHidden } from './weight/pictureHidden';
import { sourceMap } from './weight/sourceMap';
import { preloadUnused } from './weight/preloadUnused';
import { fontSubset } from './weight/fontSubset';
import { loadCount } from './weight/loadCount';
import { importChain } from './blocking/importChain';
import { styleMedia } from './blocking/styleMedia';
import { scriptBehindStyle } from './blocking/scriptBehindStyle';
import { foreignBlocking } from './blocking/foreignBlocking';
import { lateStyle } from './blocking/lateStyle';
import { styleUnused } from './blocking/styleUnused';
import { fontLate } from './blocking/fontLate';

/** Every check, in the order in which concerns and findings are listed. */
export const CHECKS: readonly Check[] = [
  httpEntrance,
  httpMention,
  hsts,
  certificate,
  cookieInsecure,
  addressForm,
  mixedMarkup,
  mixedStyle,
  mixedLoad,
  mixedForm,
  mixedHint,
  mixedMasked,
  heroLazy,
  heroLate,
  heroPriority,
  heroPreload,
  heroOtherHost,
  heroHidden,
  heroSlides,
  heroDialog,
  heroFont,
  imageDimensions,
  imageOversized,
  srcsetSizes,
  textUncompressed,
  offscreenEager,
  pictureHidden,
  loadFailed,
  duplicateBody,
  pictureFormat,
  inlinedData,
  fontFormat,
  fontSubset,
  preloadUnused,
  sourceMap,
  textUnminified,
  libraryTwice,
  htmlLarge,
  cacheShort,
  loadCount,
  scriptBlocking,
  styleBlocking,
  importChain,
  styleUnused,
  styleMedia,
  lateStyle,
  scriptBehindStyle,
  foreignBlocking,
  redirectInFront,
  fontDisplay,
  fontLate,
  documentWrite,
  inlineScript,
  serverWait,
];

/** Checks of how a host is set up: what they find is no fault of a single page. */
export const HOST_CHECKS: readonly string[] = CHECKS.filter((c) => c.concern === 'https' && c.groupedBy === 'host').map(
  (c) => c.id,
);

/** Runs every check on one page. The same id twice (two like mentions in one tag) counts once. */
export function examinePage(subject: Subject): Finding[] {
  const seen = new Set<string>();
  return CHECKS.flatMap((check) => check.examine(subject)).filter((f) => !seen.has(f.id) && seen.add(f.id));
}
