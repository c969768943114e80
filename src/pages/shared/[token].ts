import type { APIRoute } from 'astro';
import { InputError } from '../../core/capture/errors';
import { log } from '../../engine/log';
import { store } from '../../engine/services/openedStore';
import { reportInThread } from '../../engine/services/reportInThread';
import { openShare } from '../../engine/store/shares';
import { REPORT_POLICY } from '../../server/policy';

const said = (text: string, status: number) =>
  new Response(
    `<!doctype html><html lang="en"><meta charset="utf-8"><title>Keen Lens</title><body style="font: 1.1rem/1.5 system-ui, sans-serif; max-width: 36rem; margin: 4rem auto; padding: 0 1rem"><p>${text}</p>`,
    { status, headers: { 'content-type': 'text/html; charset=utf-8', 'content-security-policy': REPORT_POLICY } },
  );

/** A report that was shared by link: read-only, without scripts, and nothing else of the application. */
export const GET: APIRoute = async ({ params }) => {
  const db = await store();
  const share = await openShare(db, params.token ?? '', new Date());
  if (!share)
    return said('This link has ended, was taken back, or never was one. Ask whoever sent it for a new one.', 404);
  try {
    const { bytes } = await reportInThread(db, {
      siteId: share.siteId,
      sweepId: share.sweepId ?? undefined,
      reader: share.reader,
      format: 'html',
      visitor: share.visitor,
    });
    return new Response(bytes as BodyInit, {
      headers: {
        'content-type': 'text/html; charset=utf-8',
        'content-security-policy': REPORT_POLICY,
        'cache-control': 'no-store',
        'x-robots-tag': 'noindex',
      },
    });
  } catch (error) {
    if (!(error instanceof InputError)) log.error({ err: error }, 'a shared report could not be made');
    return said('There is nothing to show at the moment. Try again later.', 503);
  }
};
