import { contentByScript } from './blocking/contentByScript';
import { documentWrite } from './blocking/documentWrite';
import { fontDisplay } from './blocking/fontDisplay';
import { fontLate } from './blocking/fontLate';
import { thirdPartyBlocking } from './blocking/thirdPartyBlocking';
import { importChain } from './blocking/importChain';
import { inlineScriptLarge } from './blocking/inlineScriptLarge';
import { styleInBody } from './blocking/styleInBody';
import { redirectInFront } from './blocking/redirectInFront';
import { scriptBehindStyle } from './blocking/scriptBehindStyle';
import { scriptBlocking } from './blocking/scriptBlocking';
import { serverWait } from './blocking/serverWait';
import { styleBlocking } from './blocking/styleBlocking';
import { styleMediaNever } from './blocking/styleMediaNever';
import { styleUnused } from './blocking/styleUnused';
import { heroDialog } from './hero/heroDialog';
import { heroTextFont } from './hero/heroTextFont';
import { heroHidden } from './hero/heroHidden';
import { heroLate } from './hero/heroLate';
import { heroLazy } from './hero/heroLazy';
import { heroOtherHost } from './hero/heroOtherHost';
import { heroPreloadMismatch } from './hero/heroPreloadMismatch';
import { heroPriority } from './hero/heroPriority';
import { heroSlides } from './hero/heroSlides';
import { imageDimensions } from './hero/imageDimensions';
import { addressForm } from './https/addressForm';
import { certificate } from './https/certificate';
import { cookieInsecure } from './https/cookieInsecure';
import { hsts } from './https/hsts';
import { httpEntrance } from './https/httpEntrance';
import { httpMention } from './https/httpMention';
import { linkRedirected } from './https/linkRedirected';
import { linkMissing } from './https/linkMissing';
import { sitemapHttp } from './https/sitemapHttp';
import { mixedForm } from './mixed/mixedForm';
import { mixedHint } from './mixed/mixedHint';
import { mixedLoad } from './mixed/mixedLoad';
import { mixedMarkup } from './mixed/mixedMarkup';
import { mixedMasked } from './mixed/mixedMasked';
import { mixedStyle } from './mixed/mixedStyle';
import { cacheShort } from './weight/cacheShort';
import { duplicateBody } from './weight/duplicateBody';
import { fontFormat } from './weight/fontFormat';
import { fontSubset } from './weight/fontSubset';
import { htmlLarge } from './weight/htmlLarge';
import { imageHeavy } from './weight/imageHeavy';
import { imageOversized } from './weight/imageOversized';
import { inlinedData } from './weight/inlinedData';
import { libraryTwice } from './weight/libraryTwice';
import { loadCount } from './weight/loadCount';
import { loadFailed } from './weight/loadFailed';
import { offscreenEager } from './weight/offscreenEager';
import { pictureFormat } from './weight/pictureFormat';
import { pictureHidden } from './weight/pictureHidden';
import { preloadUnused } from './weight/preloadUnused';
import { sourceMap } from './weight/sourceMap';
import { srcsetSizes } from './weight/srcsetSizes';
import { textUncompressed } from './weight/textUncompressed';
import { textUnminified } from './weight/textUnminified';
import type { Check, Finding, Subject } from './finding';

/** Every check, in the order in which concerns and findings are listed. */
export const CHECKS: readonly Check[] = [
  httpEntrance,
  httpMention,
  hsts,
  certificate,
  cookieInsecure,
  addressForm,
  linkMissing,
  linkRedirected,
  sitemapHttp,
  mixedMarkup,
  mixedStyle,
  mixedLoad,
  mixedForm,
  mixedHint,
  mixedMasked,
  heroLazy,
  heroLate,
  heroPriority,
  heroPreloadMismatch,
  heroOtherHost,
  heroHidden,
  heroSlides,
  heroDialog,
  heroTextFont,
  imageDimensions,
  imageOversized,
  imageHeavy,
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
  contentByScript,
  scriptBlocking,
  styleBlocking,
  importChain,
  styleUnused,
  styleMediaNever,
  styleInBody,
  scriptBehindStyle,
  thirdPartyBlocking,
  redirectInFront,
  fontDisplay,
  fontLate,
  documentWrite,
  inlineScriptLarge,
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
