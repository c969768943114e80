import type { APIContext } from 'astro';
import { array, boolean, number, object, string } from 'yup';
import { InputError } from '../../core/capture/errors';
import { typedAddress } from '../../core/site/address';
import { readHostMap } from '../../engine/net/hostMap';
import { scopeOf } from '../../core/site/scope';
import { withSecretsOf, type SweepSettings } from '../../core/site/settings';
import { saveSiteSettings, siteSettings, type SiteRow } from '../../engine/store/sites';
import type { Store } from '../../engine/store/store';
import { body } from './_answer';

const text = (most: number) => string().trim().max(most);
const lines = (most: number) => array(text(2000).required()).max(most);

/** SweepSettings as they may be sent: every part may be left out. */
const settingsSchema = object({
  home: text(2000),
  followLinks: boolean(),
  sitemaps: boolean(),
  list: lines(200_000),
  subdomains: boolean(),
  include: lines(200),
  exclude: lines(200),
  ignoreParameters: lines(200),
  maxDepth: number().integer().min(0).max(1000),
  maxPages: number().integer().min(1).max(1_000_000),
  perSecond: number().min(0).max(1000),
  parallel: number().integer().min(1).max(64),
  obeyRobots: boolean(),
  obeyNoindex: boolean(),
  obeyNofollow: boolean(),
  userAgent: text(300).matches(/^[\x20-\x7e]+$/, 'A user agent takes plain letters only.'),
  headers: array(
    object({
      name: string()
        .required()
        .matches(/^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/, 'A header name takes letters, digits and hyphens.'),
      value: string()
        .defined()
        .max(8000)
        .matches(/^[^\r\n\0]*$/, { message: 'A header value is one line.', excludeEmptyString: true }),
    }),
  ).max(50),
  basicAuth: object({ username: text(300).required(), password: string().defined().max(1000) })
    .default(undefined)
    .nullable(),
  allowPrivate: boolean(),
  acceptAnyCertificate: boolean(),
  mapHosts: lines(100),
  captures: object({
    maxPages: number().integer().min(0).max(1000),
    order: string().oneOf(['template-size', 'links-in', 'all-pages']),
    devices: array(string().oneOf(['phone', 'desktop']).required()).max(2),
    pins: lines(500),
    browsers: number().integer().min(1).max(16),
    keepSweeps: number().integer().min(0).max(1000),
    runs: number().integer().min(1).max(9),
  }).default(undefined),
  entrances: object({
    withSweep: boolean(),
    hosts: array(text(253).required()).max(200),
    perTemplate: number().integer().min(0).max(100_000),
    outsideLinks: boolean(),
  }).default(undefined),
});

/** Settings with what was sent put over them. @throws InputError for what cannot be followed */
function mergeSettings(stored: SweepSettings, sent: Record<string, unknown>): SweepSettings {
  const given = Object.fromEntries(Object.entries(sent).filter(([, v]) => v !== undefined));
  const captures = { ...stored.captures, ...(given['captures'] as object | undefined) };
  const entrances = { ...stored.entrances, ...(given['entrances'] as object | undefined) };
  const merged = { ...stored, ...given, captures, entrances } as {
    -readonly [K in keyof SweepSettings]: SweepSettings[K];
  } & {
    basicAuth?: unknown;
  };
  if (merged.basicAuth === null) delete (merged as { basicAuth?: unknown }).basicAuth;
  merged.home = typedAddress(merged.home, 'home').href;
  for (const line of merged.mapHosts) readHostMap(line);
  for (const host of merged.entrances.hosts) typedAddress(host, 'entrances.hosts');
  if (!merged.followLinks && !merged.sitemaps && merged.list.length === 0)
    throw new InputError(
      'The sweep has no source of pages.',
      'sources',
      'Follow links, read sitemaps or give a list of addresses.',
    );
  scopeOf(merged);
  return merged;
}

/** Puts the settings of a request over those of a site and stores them. @throws InputError, ValidationError */
export async function takeSettings(db: Store, site: SiteRow, context: APIContext): Promise<SweepSettings> {
  const stored = await siteSettings(db, site);
  const settings = withSecretsOf(mergeSettings(stored, await body(context, settingsSchema)), stored);
  await saveSiteSettings(db, site.id, settings);
  return settings;
}
