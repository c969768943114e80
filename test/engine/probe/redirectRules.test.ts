import { expect } from 'chai';
import { planRedirects, promised, ruleChecks, type RedirectPlan } from '../../../src/core/handover/redirectRules/plan';
import { RULES } from '../../../src/core/handover/redirectRules';
import { issue, makeAuthority } from '../../../demo/site/planted';
import { programOf, startWebServer, type RunningServer, type WebServer } from '../../fixtures/webServers';

const HOME = 'https://www.fernhollow.example/';
const PLAN: RedirectPlan = planRedirects({
  home: HOME,
  canonical: 'http and the bare name lead to one secure address',
  chosen: [
    { from: '/old/tree-fern.html', to: '/plants/tree-fern/' },
    { from: '/caf%C3%A9/men%C3%BC', to: '/visit/caf%C3%A9/' },
    { from: '/a%20b/(1)+[x].html', to: '/plants/?sort=name&dir=up' },
    { from: '/p?id=7', to: '/plants/moss/' },
    { from: '/100%25-sale$', to: '/shop/50%25-off/' },
    { from: '/gone-for-good', to: 'gone' },
    { from: '/elsewhere', to: 'https://moss.example/a?b=c' },
    ...['ash', 'beech', 'elm', 'oak%20tree'].map((t) => ({ from: `/trees/${t}/`, to: `/plants/trees/${t}/` })),
  ],
});
const slashes = (form: 'add' | 'remove'): RedirectPlan =>
  planRedirects({ home: HOME, canonical: PLAN.canonical, chosen: [], slash: { form, reason: 'pages have one form' } });
const PLANS = {
  'pages, folders and hosts': PLAN,
  'a slash at the end': slashes('add'),
  'no slash at the end': slashes('remove'),
};
const ASKED = [
  '/',
  '/visit/',
  '/visit/?a=b&c=%20d',
  '/plants/tree-fern/',
  '/old/tree-fern.html',
  '/old/tree-fern.html?utm=x%20y',
  '/old/tree-fernXhtml',
  '/caf%C3%A9/men%C3%BC',
  '/a%20b/(1)+[x].html',
  '/p?id=7',
  '/p?id=8',
  '/p',
  '/100%25-sale$',
  '/gone-for-good',
  '/elsewhere',
  '/trees/ash/',
  '/trees/oak%20tree/',
  '/trees/unknown%2Btree/a.html?x=1',
  '/some%20page/%C3%BC?q=%2F',
  '/some%20page/%C3%BC/?q=%2F',
  '/file.css',
  '/a.b/page',
];

describe('redirect rules on real servers', function () {
  this.timeout(240_000);
  const servers: readonly WebServer[] = ['nginx', 'apache', 'caddy'];
  for (const [server, [what, plan]] of servers.flatMap((s) => Object.entries(PLANS).map((p) => [s, p] as const))) {
    describe(`${server}: ${what}`, () => {
      let running: RunningServer;
      before(async function () {
        if (!programOf(server)) {
          console.log(
            `      ${server} is not installed: its rules were not tried (Debian: apt-get install ${server === 'apache' ? 'apache2' : server})`,
          );
          this.skip();
        }
        const tls = await issue(await makeAuthority(), plan.hosts, { self: true });
        running = await startWebServer(server, RULES[server].write(plan), plan.hosts, tls);
      });
      after(() => running?.stop());

      it('does for every address what the rules promise', async () => {
        const seen: string[] = [];
        const meant: string[] = [];
        for (const origin of plan.hosts.flatMap((h) => [`http://${h}`, `https://${h}`]))
          for (const path of ASKED) {
            const promise = promised(plan, origin + path);
            const answer = await running.ask(origin + path);
            // Apache has no page of its own there: what matters is that the rules left it alone.
            const left =
              promise === undefined &&
              (answer.status === 200 || answer.status === 404 || answer.status === 403) &&
              answer.location === undefined;
            seen.push(`${origin}${path} ${left ? 'left alone' : `${answer.status} ${answer.location ?? ''}`}`);
            meant.push(`${origin}${path} ${promise ? `${promise.status} ${promise.location ?? ''}` : 'left alone'}`);
          }
        const wrong = seen.flatMap((s, i) => (s === meant[i] ? [] : [`${s} instead of ${meant[i]}`]));
        if (wrong.length > 0) expect.fail(wrong.join('\n'));
      });

      it('holds every check that stands below the rules', async () => {
        const wrong: string[] = [];
        for (const check of ruleChecks(plan)) {
          const { status, location } = await running.ask(check.url);
          if (status !== check.status || location !== check.location)
            wrong.push(`${check.url}: ${status} ${location ?? ''} instead of ${check.status} ${check.location ?? ''}`);
        }
        if (wrong.length > 0) expect.fail(wrong.join('\n'));
      });
    });
  }
});
