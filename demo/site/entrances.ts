import { HOSTS } from './hosts';
import { issue, makeAuthority, servePlanted, type Authority, type Planted } from './planted';
import { serveDemo, type DemoSite } from './serve';

/** The stand-in site with hosts around it that show every fault of entrances and certificates. */
export interface DemoEntrances {
  readonly map: readonly string[];
  /** The root that its certificates lead to, as PEM. */
  readonly root: string;
  close(): Promise<void>;
}

const DOMAIN = 'fernhollow.example';

const page = (name: string, headers: Record<string, string> = {}): ReturnType<Planted> => ({
  status: 200,
  headers,
  body: `<!doctype html><html lang="en"><title>${name} - Fernhollow</title><h1>${name}</h1>`,
});

/** Leads http to https in one permanent redirect and shows a page there. */
const proper =
  (name: string, headers?: Record<string, string>): Planted =>
  (at) =>
    at.secure ? page(name, headers) : { status: 301, location: `https://${at.host}${at.url}` };

/** Starts the stand-in site as a half-moved site: its own hosts, and others with one fault each. */
export async function serveEntrances(pictures: string): Promise<DemoEntrances> {
  const authority: Authority = await makeAuthority();
  const names = HOSTS.map((h) => h.name);
  const main = await issue(authority, names, { from: -31, to: 59.5 });
  const tls = { key: main.key, cert: `${main.cert}\n${authority.intermediate.cert}` };
  const site: DemoSite = await serveDemo(pictures, { pages: 90, tls });
  const on = (name: string) => `${name}.${DOMAIN}`;
  const certificate = (name: string, options?: Parameters<typeof issue>[2]) => issue(authority, [on(name)], options);
  const year = { 'strict-transport-security': 'max-age=31536000; includeSubDomains' };
  const planted = await servePlanted(authority, {
    [on('events')]: {
      answer: proper('Events', year),
      certificate: await certificate('events', { from: -81, to: 9.5 }),
    },
    [on('shop')]: { answer: proper('Shop'), certificate: await certificate('shop', { from: -93, to: -3 }) },
    [on('members')]: { answer: proper('Members'), certificate: await certificate('members', { self: true }) },
    [on('press')]: { answer: proper('Press'), certificate: await issue(authority, [on('media')]) },
    [on('library')]: { answer: proper('Library', year), certificate: await certificate('library'), leafOnly: true },
    [on('herbarium')]: {
      answer: proper('Herbarium'),
      certificate: await certificate('herbarium'),
      versions: { minVersion: 'TLSv1', maxVersion: 'TLSv1.2' },
    },
    [on('archive')]: { answer: () => page('Archive'), shut: ['https'] },
    [on('newsletter')]: {
      answer: (at) => ({ status: 301, location: `${at.secure ? 'http' : 'https'}://${at.host}${at.url}` }),
      certificate: await certificate('newsletter'),
    },
    [on('old')]: {
      answer: (at) =>
        at.secure ? { status: 404, body: '<h1>Not found</h1>' } : { status: 302, location: `https://www.${DOMAIN}/` },
      certificate: await certificate('old'),
    },
  });
  return {
    map: [...site.map, ...planted.map],
    root: authority.root.cert,
    close: async () => {
      await planted.close();
      await site.close();
    },
  };
}

/** Hosts that nothing on the site links to: an auditor adds them by hand. */
export const ADDED_HOSTS = [
  'events',
  'shop',
  'members',
  'press',
  'library',
  'herbarium',
  'archive',
  'newsletter',
  'old',
].map((n) => `${n}.${DOMAIN}`);
