import { CHECKS } from '../../src/core/checks';
import { predictRenderBlocking } from '../../src/core/checks/blocking/verdict';
import { isMixed, predictMixed, type MixedVerdict } from '../../src/core/checks/mixed/mixedKinds';
import { findHero, type Hero } from '../../src/core/load/hero';
import { auditPage } from '../../src/core/plan/audit';
import type { Page } from '../../src/core/source/page';
import type { Recorded, Situation } from '../../test/fixtures/pages/situations';

/** One thing that was compared with what Chromium did. */
export interface Verdict {
  readonly what: 'blocking' | 'mixed' | 'hero' | 'hero seen' | 'queue' | 'faults';
  readonly page: string;
  readonly device: string;
  readonly about: string;
  readonly ours: string;
  readonly truth: string;
}

/** True when ours is what Chromium did. */
export const agrees = (v: Verdict) => v.ours === v.truth;

/** Compares everything that we say about a recorded situation with what the browser did. */
export function judge(recorded: Recorded, situation: Situation): Verdict[] {
  const at = { page: recorded.name, device: recorded.device };
  return [...blocking(recorded), ...mixed(recorded), ...heroes(recorded), ...faults(recorded, situation)].map((v) => ({
    ...v,
    ...at,
  }));
}

type Partial = Omit<Verdict, 'page' | 'device'>;

/** Told from the plain HAR, against Resource Timing. */
function blocking({ seen, plain }: Recorded): Partial[] {
  return seen.capture.loads.flatMap((load) => {
    const own = plain.capture.loads.find((l) => l.index === load.index);
    // What a browser refused holds nothing back, whatever its entry says.
    if (load.renderBlocking === undefined || !own || load.kind === 'document' || load.error !== undefined) return [];
    return [
      {
        what: 'blocking' as const,
        about: load.url,
        ours: predictRenderBlocking(plain, own) ? 'blocking' : 'not blocking',
        truth: load.renderBlocking ? 'blocking' : 'not blocking',
      },
    ];
  });
}

/** Every http address that the page fetches, against what the load record shows of it. */
function mixed({ seen }: Recorded): Partial[] {
  const out = new Map<string, Partial>();
  const tell = (url: string, ours: MixedVerdict) => {
    const truth = whatBecame(seen, url);
    if (truth !== 'not asked') out.set(`${url} ${ours}`, { what: 'mixed', about: url, ours, truth });
  };
  for (const m of seen.mentions)
    if (m.use === 'load' && !m.element.inert && isMixed(seen, m.url)) tell(m.url, predictMixed(seen, m));
  for (const sheet of seen.styles)
    for (const r of sheet.references)
      if (isMixed(seen, r.url))
        tell(r.url, predictMixed(seen, { url: r.url, kind: r.use === 'import' ? 'style' : r.use }));
  for (const l of seen.capture.loads) {
    const scripted = l.initiator?.type === 'script' && isMixed(seen, l.url);
    if (scripted) tell(l.url, predictMixed(seen, l));
  }
  return [...out.values()];
}

function whatBecame(page: Page, url: string): MixedVerdict | 'not asked' {
  const { loads } = page.capture;
  const plain = loads.find((l) => l.url === url);
  if (plain) return plain.mixedBlocked || plain.status === 0 ? 'blocked' : 'allowed';
  if (loads.some((l) => l.url === url.replace(/^http:/, 'https:'))) return 'upgraded';
  return 'not asked';
}

function heroes({ seen, plain, order }: Recorded): Partial[] {
  const paint = seen.capture.observations?.largestPaints.at(-1);
  if (!paint) return [];
  const truth = paint.url ? fileOf(seen, paint.url) : textOf(paint.path);
  const name = (page: Page, hero: Hero) => (hero.url ? fileOf(page, hero.url) : textOf(hero.path));
  const observed = findHero(seen);
  const audit = auditPage(seen);
  const late = audit.findings.find((f) => f.check === 'hero-late')?.evidence.numbers.place;
  const out: Partial[] = [
    { what: 'hero', about: 'largest paint', ours: name(plain, findHero(plain)), truth },
    { what: 'hero seen', about: 'largest paint', ours: name(seen, observed), truth },
  ];
  if (observed.load) {
    const place = order.indexOf(observed.load.url) + 1;
    const loads = [...seen.capture.loads].sort((a, b) => a.startMs - b.startMs || a.index - b.index);
    const ours = late ?? loads.findIndex((l) => l.index === observed.load?.index) + 1;
    out.push({ what: 'queue', about: observed.load.url, ours: String(ours), truth: String(place) });
  }
  return out;
}

/** The file that came for an address, by what is after its host: upgraded and redirected ones are the same. */
function fileOf(page: Page, url: string): string {
  return (page.loadOf(url)?.url ?? url).replace(/^https?:/, '');
}

const textOf = (path: string | undefined) => `text ${path ?? ''}`;

/** Checks that speak of the server as it is set up for every page here. */
const ALIKE = new Set(['server-wait', 'cache-short']);

/** Checks that found something, against those that the page says must. */
function faults({ seen, device }: Recorded, situation: Situation): Partial[] {
  const expected = new Set(situation.faults[device]);
  const unknown = [...expected].filter((id) => !CHECKS.some((c) => c.id === id));
  if (unknown.length > 0) throw new Error(`${situation.name} names no check: ${unknown.join(', ')}`);
  const found = new Set(
    auditPage(seen)
      .findings.map((f) => f.check)
      .filter((id) => !ALIKE.has(id)),
  );
  return [...new Set([...expected, ...found])].map((id) => ({
    what: 'faults' as const,
    about: id,
    ours: found.has(id) ? 'found' : 'not found',
    truth: expected.has(id) ? 'found' : 'not found',
  }));
}
