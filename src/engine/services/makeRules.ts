import { planRedirects, type ChosenTarget, type RedirectPlan } from '../../core/handover/redirectRules/plan';
import { bareForm, isGood, probeTargets, type Entrance } from '../../core/site/entrances';
import { namedBySitemaps } from './askFates';
import { probeEntrances, type ProbeOptions, type ProbeReport } from '../probe/probeEntrances';

/** Fewest pages that have to show the same before a rule for all is made. */
const SLASH_PAGES = 3;

/**
 * Asks for the site's entrances and plans rules for what was found there and for the pages chosen for missing ones.
 * @param deep a sample of pages: shows which trailing slash they have
 */
export async function makeRules(
  chosen: readonly ChosenTarget[],
  deep: readonly string[],
  options: ProbeOptions,
): Promise<{ readonly plan: RedirectPlan; readonly report: ProbeReport }> {
  const report = await probeEntrances(probeTargets([{ url: options.settings.home }], deep), options);
  return { plan: rulesFor(report.entrances, chosen, deep, options.settings.home), report };
}

/** The rules for what probes have shown. */
export function rulesFor(
  entrances: readonly Entrance[],
  chosen: readonly ChosenTarget[],
  living: readonly string[],
  asked: string,
): RedirectPlan {
  // A probe asks other hosts of the site too: rules are for the home and its other form.
  const home = bareForm(new URL(asked).hostname);
  const ofHome = entrances.filter((e) => bareForm(new URL(e.from).hostname) === home);
  const own = ofHome.filter((e) => e.why !== 'slash');
  const direct = own.find((e) => e.verdict === 'direct');
  const faults = own.filter((e) => !isGood(e.verdict) && e.verdict !== 'certificate');
  const kinds = [...new Set(faults.map((e) => e.verdict))];
  return planRedirects({
    home: direct?.end ? new URL('/', direct.end.url).href : asked,
    canonical:
      faults.length > 0 || chosen.length > 0
        ? faults.length > 0
          ? `http and every host form end at one secure address in one hop (found: ${kinds.join(', ')})`
          : 'http and every host form end at one secure address in one hop, moved pages too'
        : undefined,
    chosen,
    living: living.flatMap((url) => {
      const at = new URL(url);
      return bareForm(at.hostname) === home ? [at.pathname] : [];
    }),
    slash: slashOf(ofHome),
  });
}

/** Where the other trailing slash of every sampled page fails to lead to it. */
function slashOf(entrances: readonly Entrance[]): RedirectPlan['slash'] {
  const others = entrances.filter((e) => e.why === 'slash' && e.from.startsWith('https:'));
  const bad = others.filter((e) => e.verdict === 'missing' || e.verdict === 'duplicate');
  if (bad.length < SLASH_PAGES || bad.length < others.length) return undefined;
  const without = bad.filter((e) => !new URL(e.from).pathname.endsWith('/')).length;
  if (without !== bad.length && without !== 0) return undefined;
  const what = `${bad.length} sampled pages ${bad[0]?.verdict === 'missing' ? 'are missing' : 'respond a second time'}`;
  return without > 0
    ? { form: 'add', reason: `${what} without the slash at the end` }
    : { form: 'remove', reason: `${what} with a slash at the end` };
}

/** A few pages that the sitemaps name, from all over them. */
export async function samplePages(options: ProbeOptions, most = 5): Promise<string[]> {
  const pages = (await namedBySitemaps(options)).map((p) => p.url).filter((url) => new URL(url).pathname !== '/');
  const step = Math.max(1, Math.floor(pages.length / most));
  return pages.filter((_, i) => i % step === 0).slice(0, most);
}
