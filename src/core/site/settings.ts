/** How a sweep goes about a site. Plain values: stored with the site, shown with each sweep. */
export interface SweepSettings {
  /** Absolute home address. */
  readonly home: string;
  /** Follow links from the home page. */
  readonly followLinks: boolean;
  /** Read the sitemaps named in robots.txt, and /sitemap.xml. */
  readonly sitemaps: boolean;
  /** Addresses given as a list. */
  readonly list: readonly string[];
  readonly subdomains: boolean;
  /** Patterns as in patterns.ts; with none everything is kept. */
  readonly include: readonly string[];
  readonly exclude: readonly string[];
  /** Query parameters that do not make another page; `*` at the end stands for anything. */
  readonly ignoreParameters: readonly string[];
  /** Links from the home page; 0 is the home page alone. */
  readonly maxDepth: number;
  readonly maxPages: number;
  /** Requests a second to one host; 0 sets no limit. */
  readonly perSecond: number;
  /** Requests at a time to one host. */
  readonly parallel: number;
  /** Obey robots.txt (RFC 9309). */
  readonly obeyRobots: boolean;
  /** Leave out pages that ask not to be indexed. */
  readonly obeyNoindex: boolean;
  /** Leave links marked nofollow alone. */
  readonly obeyNofollow: boolean;
  readonly userAgent: string;
  readonly headers: readonly { readonly name: string; readonly value: string }[];
  readonly basicAuth?: { readonly username: string; readonly password: string };
  /** Loopback, link-local and private addresses may be asked (RFC 6890). */
  readonly allowPrivate: boolean;
  readonly acceptAnyCertificate: boolean;
  /** `HOST[:PORT]=IP[:PORT]`, for a staging server that has no name yet. */
  readonly mapHosts: readonly string[];
  readonly captures: CaptureSettings;
  readonly entrances: EntranceSettings;
}

/** Which ways into the site are asked for. */
export interface EntranceSettings {
  /** A sweep ends with a probe. */
  readonly withSweep: boolean;
  /** Host names besides those that the site shows. */
  readonly hosts: readonly string[];
  /** Pages of each template that are asked for in all forms; 0 for none. */
  readonly perTemplate: number;
  /** Looks up whether pages of other sites that are linked by http can be had by https. */
  readonly outsideLinks: boolean;
}

/** Which pages are recorded after the crawl. */
export interface CaptureSettings {
  /** Pages at most, the home page and pinned ones included; 0 records none. */
  readonly maxPages: number;
  readonly order: CaptureOrder;
  readonly devices: readonly ('phone' | 'desktop')[];
  /** Pages that the auditor wants in any case. */
  readonly pins: readonly string[];
  /** Browsers at a time. */
  readonly browsers: number;
  /** Sweeps whose captures keep their files; of older ones only what was found out stays. 0 keeps all. */
  readonly keepSweeps?: number;
  /** Times that each page is recorded: one busy moment is not taken for the page's. 1 is quick. */
  readonly runs: number;
}

/**
 * `template-size`: one page a template, templates with most pages first. `links-in`: one a template, most linked pages
 * first. `all-pages`: one a template, then every other page, most linked first.
 */
export type CaptureOrder = 'template-size' | 'links-in' | 'all-pages';

export const DEFAULT_USER_AGENT = 'KeenLens/0.1 (site audit)';

/** The name that robots.txt knows us by. */
export const ROBOTS_NAME = 'KeenLens';

/** How hard a sweep may press a server. */
export interface Preset {
  readonly id: 'gentle' | 'normal' | 'own-server';
  readonly name: string;
  readonly means: string;
  readonly values: Pick<SweepSettings, 'perSecond' | 'parallel' | 'obeyRobots' | 'allowPrivate'>;
}

export const PRESETS: readonly Preset[] = [
  {
    id: 'gentle',
    name: 'Gentle',
    means: 'One request a second, one at a time: for small or busy servers of others.',
    values: { perSecond: 1, parallel: 1, obeyRobots: true, allowPrivate: false },
  },
  {
    id: 'normal',
    name: 'Normal',
    means: 'Five requests a second, four at a time: about what a few visitors do.',
    values: { perSecond: 5, parallel: 4, obeyRobots: true, allowPrivate: false },
  },
  {
    id: 'own-server',
    name: 'Own server',
    means: 'As fast as the server answers, sixteen at a time, also on private addresses: only where you may.',
    values: { perSecond: 0, parallel: 16, obeyRobots: true, allowPrivate: true },
  },
];

/** The preset that settings agree with; undefined when they were changed. */
export function presetOf(settings: Preset['values']): Preset | undefined {
  return PRESETS.find((p) =>
    (Object.keys(p.values) as (keyof Preset['values'])[]).every((k) => p.values[k] === settings[k]),
  );
}

/** Settings for a site that has none of its own yet. */
export function defaultSettings(home: string): SweepSettings {
  return {
    home,
    followLinks: true,
    sitemaps: true,
    list: [],
    subdomains: false,
    include: [],
    exclude: [],
    ignoreParameters: ['utm_*'],
    maxDepth: 20,
    maxPages: 1000,
    perSecond: 5,
    parallel: 4,
    obeyRobots: true,
    obeyNoindex: false,
    obeyNofollow: false,
    userAgent: DEFAULT_USER_AGENT,
    headers: [],
    allowPrivate: false,
    acceptAnyCertificate: false,
    mapHosts: [],
    captures: { maxPages: 6, order: 'template-size', devices: ['phone', 'desktop'], pins: [], browsers: 1, runs: 3 },
    entrances: { withSweep: true, hosts: [], perTemplate: 3, outsideLinks: false },
  };
}

/** Settings without what must not be shown: the password and header values. */
export function shownSettings(settings: SweepSettings): SweepSettings {
  return {
    ...settings,
    headers: settings.headers.map((h) => ({ name: h.name, value: HIDDEN })),
    basicAuth: settings.basicAuth && { username: settings.basicAuth.username, password: HIDDEN },
  };
}

/** Stands where a secret is not shown; sent back unchanged it leaves the stored one as it is. */
export const HIDDEN = '•••';

/** Puts stored secrets back where a form returned the placeholder. */
export function withSecretsOf(settings: SweepSettings, stored: SweepSettings | undefined): SweepSettings {
  const known = new Map(stored?.headers.map((h) => [h.name.toLowerCase(), h.value]));
  const auth = settings.basicAuth;
  return {
    ...settings,
    headers: settings.headers.map((h) =>
      h.value === HIDDEN ? { name: h.name, value: known.get(h.name.toLowerCase()) ?? '' } : h,
    ),
    basicAuth:
      auth?.password === HIDDEN ? { username: auth.username, password: stored?.basicAuth?.password ?? '' } : auth,
  };
}
