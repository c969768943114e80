import type { Finding } from '../checks/finding';
import type { Fix, FixKind, FixKindId, OfferContext } from './fix';
import { lineChanges, type Edit, type LineChange } from './edits';
import { heroEager } from './heroEager';
import { heroPreload } from './heroPreload';
import { heroPriority } from './heroPriority';
import { httpUpgrade } from './httpUpgrade';
import { imageResize } from './imageResize';
import { offscreenLazy } from './offscreenLazy';
import { redirectSkip } from './redirectSkip';
import { scriptDefer } from './scriptDefer';
import { styleNonblocking } from './styleNonblocking';
import { textCompress } from './textCompress';
import { scriptAsync } from './scriptAsync';
import { styleInlineCritical } from './styleInlineCritical';
import { styleRemoveUnused } from './styleRemoveUnused';
import { importFlatten } from './importFlatten';
import { minify } from './minify';
import { preconnect } from './preconnect';
import { fontPreload } from './fontPreload';
import { fontSwap } from './fontSwap';
import { fontConvert } from './fontConvert';
import { selfHost } from './selfHost';
import { cachePolicy } from './cachePolicy';
import { dimensions } from './dimensions';
import { contentInHtml } from './contentInHtml';
import { serverFaster } from './serverFaster';
import { hstsFix } from './hsts';

/** Every kind of fix. */
export const FIX_KINDS: readonly FixKind[] = [
  heroEager,
  heroPreload,
  heroPriority,
  imageResize,
  textCompress,
  scriptDefer,
  styleNonblocking,
  redirectSkip,
  httpUpgrade,
  offscreenLazy,
  scriptAsync,
  styleInlineCritical,
  styleRemoveUnused,
  importFlatten,
  minify,
  preconnect,
  fontPreload,
  fontSwap,
  fontConvert,
  selfHost,
  cachePolicy,
  dimensions,
  serverFaster,
  contentInHtml,
  hstsFix,
];

const byId = new Map<string, FixKind>(FIX_KINDS.map((k) => [k.id, k]));

/** The kind with this id, or undefined. */
export function fixKind(id: string): FixKind | undefined {
  return byId.get(id as FixKindId);
}

/** Every fix that findings of a page call for. */
export function offerFixes(findings: readonly Finding[], context: OfferContext): Fix[] {
  return FIX_KINDS.flatMap((k) => k.offer(findings, context));
}

/** Source lines that a fix changes, before and after. */
export function fixChanges(fix: Fix, context: OfferContext): LineChange[] {
  const edits = byId.get(fix.kind)?.onSource(fix, context) ?? [];
  const byUrl = new Map<string, Edit[]>();
  for (const e of edits) byUrl.set(e.url, [...(byUrl.get(e.url) ?? []), e]);
  return [...byUrl].flatMap(([url, own]) => {
    const text =
      url === context.page.document?.url
        ? context.page.document.text
        : context.page.styles.find((s) => s.url === url)?.text;
    return text === undefined ? [] : lineChanges(url, text, own);
  });
}
