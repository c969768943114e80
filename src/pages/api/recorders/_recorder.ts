import fs from 'node:fs/promises';
import type { APIContext, APIRoute } from 'astro';
import { object, string } from 'yup';
import { InputError } from '../../../core/capture/errors';
import { MAX_FILE_BYTES } from '../../../engine/services/readCaptureFile';
import { store } from '../../../engine/services/openedStore';
import { countForRecorder } from '../../../engine/store/fleet/recorders';
import type { Store } from '../../../engine/store/store';
import { body, idOf, json, route, type ApiError } from '../_answer';
import { takeUpload } from '../_upload';

/** The token and name of the recorder that asks. @throws InputError without a name */
export function recorderOf(context: APIContext): { readonly tokenId: number; readonly name: string } {
  let name = '';
  try {
    name = decodeURIComponent(context.request.headers.get('x-recorder') ?? '')
      .trim()
      .slice(0, 120);
  } catch {
    // Stays without a name.
  }
  const tokenId = context.locals.who?.token?.id;
  if (!name || tokenId === undefined)
    throw new InputError('The recorder says no name.', 'X-Recorder', 'Send its name in the header X-Recorder.');
  return { tokenId, name };
}

/** Answers a recorder that asks for, or brings, what nobody waits for any more. */
export const gone = (context: APIContext): Response =>
  json(
    {
      error: {
        what: 'Nobody waits for this any more.',
        where: context.url.pathname,
        next: 'Take the next one.',
      },
    } satisfies ApiError,
    410,
  );

/** One kind of work that recorders do, by its number. */
export interface RecorderWork {
  /** What is to be done, as the recorder gets it; undefined when nobody waits for it. */
  give(db: Store, id: number): Promise<Response | undefined>;
  /** Whether somebody waits for it. */
  isWanted(db: Store, id: number): Promise<boolean>;
  /** What it is called in errors, and what helps where its result is too large. */
  readonly name: string;
  readonly tooLarge: string;
  /** Keeps the file that was handed in. */
  keep(db: Store, id: number, file: string): Promise<void>;
  /** Notes that it cannot be done, and why. */
  fail(db: Store, id: number, fault: string): Promise<void>;
}

/** GET gives work, PUT takes its result in, POST `{ fault }` notes that it cannot be done; 410 where nobody waits for it. */
export function workRoutes(work: RecorderWork): { GET: APIRoute; PUT: APIRoute; POST: APIRoute } {
  return {
    GET: route(async (context) => (await work.give(await store(), idOf(context))) ?? gone(context)),
    PUT: route(async (context) => {
      const { tokenId, name } = recorderOf(context);
      const db = await store();
      const id = idOf(context);
      if (!(await work.isWanted(db, id))) return gone(context);
      const most = { bytes: MAX_FILE_BYTES, words: '512 MB', next: work.tooLarge };
      const file = await takeUpload(context, `${work.name} ${id}`, most);
      // While it came in another recorder may have been first, or the job have been cancelled.
      if (!(await work.isWanted(db, id))) {
        await fs.rm(file, { force: true });
        return gone(context);
      }
      await work.keep(db, id, file);
      await countForRecorder(db, tokenId, name, 'done');
      return new Response(null, { status: 204 });
    }),
    POST: route(async (context) => {
      const { tokenId, name } = recorderOf(context);
      const { fault } = await body(context, object({ fault: string().max(2000).required('Say what went wrong.') }));
      const db = await store();
      const id = idOf(context);
      if (!(await work.isWanted(db, id))) return gone(context);
      await work.fail(db, id, fault);
      await countForRecorder(db, tokenId, name, 'failed');
      return new Response(null, { status: 204 });
    }),
  };
}
