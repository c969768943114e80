import { AsyncLocalStorage } from 'node:async_hooks';
import type { APIContext, APIRoute, AstroGlobal } from 'astro';
import { store } from '../engine/services/openedStore';
import { serveFrom, type Served } from '../islands/state/served';
import { judge } from './access/access';
import { Answer, rememberedAnswer } from './remembered';

/** What the request at hand has gathered so far. */
interface Gathering {
  served?: Served;
}

const requests = new AsyncLocalStorage<Gathering>();
serveFrom(() => requests.getStore()?.served);

/** Runs a request so that the islands of its page find what it is served with. */
export const gathering = <T>(run: () => T): T => requests.run({}, run);

type Endpoint = { readonly GET?: APIRoute };

/** Every endpoint of the API by its file. */
const ENDPOINTS = import.meta.glob<Endpoint>('../pages/api/**/[!_]*.ts');

/** The endpoints' addresses: `/api/sites/[id]/index.ts` answers `/api/sites/7`. */
const ROUTES = Object.entries(ENDPOINTS).map(([file, load]) => {
  const route = file.replace('../pages', '').replace(/(\/index)?\.ts$/, '');
  const names = [...route.matchAll(/\[(\w+)\]/g)].map((m) => m[1] as string);
  return { pattern: new RegExp(`^${route.replace(/\[\w+\]/g, '([^/]+)')}$`), names, load };
});

/** What an endpoint said. */
export interface OwnAnswer<T> {
  readonly value: T;
  /** Its JSON, as it can be sent on. */
  readonly text: string;
}

/**
 * Asks our own API without leaving the process: a page is drawn from the very answers that its islands would ask for.
 * Undefined for an answer that is no success, or that whoever asks may not see; its reason is told to whoever asks again.
 */
export async function answerOf<T>(
  context: APIContext | AstroGlobal,
  address: string,
): Promise<OwnAnswer<T> | undefined> {
  const url = new URL(address, context.url);
  if (!(await judge(await store(), context.locals.who, 'GET', url)).may) return undefined;
  for (const { pattern, names, load } of ROUTES) {
    const match = pattern.exec(url.pathname);
    if (!match) continue;
    const { GET } = await load();
    const params = Object.fromEntries(names.map((name, i) => [name, match[i + 1]]));
    const asked = { params, url, request: context.request, locals: context.locals } as unknown as APIContext;
    const response = await GET?.(asked);
    if (!response?.ok) return undefined;
    const answer = rememberedAnswer(response) ?? new Answer(await response.text());
    return { value: answer.value as T, text: answer.text };
  }
  return undefined;
}

/** Says what the page at hand is served with. */
export function serve(value: Served): void {
  const store = requests.getStore();
  if (store) store.served = value;
}
