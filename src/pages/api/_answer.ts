import type { APIContext, APIRoute } from 'astro';
import { ValidationError, type ObjectSchema, type AnyObject } from 'yup';
import { InputError } from '../../core/capture/errors';
import { log } from '../../engine/log';
import { store } from '../../engine/services/openedStore';
import { appSetting } from '../../engine/store/appSettings';
import { storeFault } from '../../engine/store/faults';
import { seesAll } from '../../server/access/access';

/** An error as the API answers it. */
export interface ApiError {
  readonly error: { readonly what: string; readonly where: string; readonly next: string };
}

/** JSON with a status. */
export function json(value: unknown, status = 200): Response {
  return new Response(JSON.stringify(value), {
    status,
    headers: { 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-store' },
  });
}

/** Type of an Office Open XML workbook. */
export const SHEET_TYPE = 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet';

/** A file to keep. */
export function download(content: string | Uint8Array, type: string, name: string): Response {
  return new Response(content as BodyInit, {
    headers: {
      'content-type': type,
      'content-disposition': `attachment; filename="${name}"`,
      'cache-control': 'no-store',
    },
  });
}

export function notFound(what: string, where: string): Response {
  return json(
    { error: { what, where, next: 'Go back to the list: it may have been deleted.' } } satisfies ApiError,
    404,
  );
}

/**
 * A route whose user errors become 400 with what, where and next, faults of the database 507; anything else is logged
 * and becomes 500.
 */
export function route(run: (context: APIContext) => Promise<Response>): APIRoute {
  return async (context) => {
    try {
      return await run(context);
    } catch (error) {
      if (error instanceof InputError)
        return json({ error: { what: error.what, where: error.where, next: error.next } } satisfies ApiError, 400);
      if (error instanceof ValidationError) {
        return json(
          {
            error: {
              what: error.errors.join(' '),
              where: error.path ?? 'request',
              next: 'See docs/api.md for what this call takes.',
            },
          } satisfies ApiError,
          400,
        );
      }
      const fault = storeFault(error, context.url.pathname);
      if (fault) {
        log.error({ url: context.url.pathname }, fault.what);
        return json({ error: { what: fault.what, where: fault.where, next: fault.next } } satisfies ApiError, 507);
      }
      log.error({ err: error, url: context.url.pathname }, 'request failed');
      return json(
        {
          error: {
            what: 'Something went wrong on our side.',
            where: context.url.pathname,
            next: 'The log of the server says more.',
          },
        } satisfies ApiError,
        500,
      );
    }
  };
}

/** Query parameters by a schema. @throws ValidationError */
export function query<T extends AnyObject>(context: APIContext, schema: ObjectSchema<T>): T {
  return schema.validateSync(Object.fromEntries(context.url.searchParams), { stripUnknown: true }) as T;
}

/** JSON body by a schema. @throws ValidationError, InputError also for what belongs to sites of others */
export async function body<T extends AnyObject>(context: APIContext, schema: ObjectSchema<T>): Promise<T> {
  let value: unknown;
  try {
    value = JSON.parse(await context.request.text(), withoutPrototype);
  } catch {
    throw new InputError('The request has no JSON in it.', 'request body', 'Send a JSON object.');
  }
  if (value === null || typeof value !== 'object' || Array.isArray(value))
    throw new InputError('The request holds no JSON object.', 'request body', 'Send a JSON object.');
  const { who } = context.locals;
  if (who && !(await seesAll(await store(), who, value as Record<string, unknown>)))
    throw new InputError('The request names something that is not there.', 'request body', 'Reload the page.');
  try {
    return (await schema.validate(value, { stripUnknown: true })) as T;
  } catch (error) {
    // A schema that trims or lowers a text does so before it has looked whether it is one.
    if (error instanceof TypeError)
      throw new InputError('A field holds something of another kind.', 'request body', 'See docs/api.md.');
    throw error;
  }
}

/** Leaves out what would stand for an object's prototype instead of a property. */
function withoutPrototype(key: string, value: unknown): unknown {
  return key === '__proto__' || key === 'constructor' || key === 'prototype' ? undefined : value;
}

/** A path parameter that is a row number; NaN becomes 0, which no row has. */
export function idOf(context: APIContext, name = 'id'): number {
  const n = Number(context.params[name]);
  return Number.isInteger(n) && n > 0 ? n : 0;
}

/** Address under which whoever asks reaches this application; one that was set for others comes first. */
export async function originOf(context: APIContext): Promise<string> {
  const set = await appSetting(await store(), 'origin');
  const host = context.request.headers.get('host') ?? '';
  return set ?? (/^[\w.[\]:-]+$/.test(host) ? `http://${host}` : context.url.origin);
}
