import { expect } from 'chai';
import fc from 'fast-check';
import { planRedirects, promised } from '../../../src/core/handover/redirectRules/plan';
import { rulesFor } from '../../../src/engine/services/makeRules';
import type { Entrance } from '../../../src/core/site/entrances';
import { RULES } from '../../../src/core/handover/redirectRules';

const HOME = 'https://www.fernhollow.example/';
const plan = (chosen: { from: string; to: string }[], living: string[] = []) =>
  planRedirects({ home: HOME, canonical: 'one address', chosen, living });

describe('plans of redirect rules', () => {
  it('takes a pattern where a whole folder moves, and none where a living page is in it', () => {
    const chosen = ['a', 'b', 'c'].map((n) => ({ from: `/old/${n}.html`, to: `/new/${n}.html` }));
    expect(plan(chosen).folders).to.deep.include.members([
      {
        from: '/old/',
        to: `${HOME}new/`,
        pages: 3,
        reason: 'all 3 missing pages of this folder move alike, and no living page is in it',
      },
    ]);
    expect(plan(chosen).pages).to.deep.equal([]);
    expect(plan(chosen, ['/old/alive.html']).folders).to.deep.equal([]);
    expect(plan([...chosen, { from: '/old/d.html', to: '/other' }]).pages).to.have.length(4);
  });

  it('refuses the home page as a target for everything, loops, and other hosts', () => {
    const { refused, pages } = plan([
      { from: '/lost', to: '/' },
      { from: '/x', to: '/y' },
      { from: '/y', to: '/x' },
      { from: 'https://moss.example/a', to: '/b' },
      { from: '/none', to: '' },
      { from: '/index.html', to: '/' },
    ]);
    expect(pages.map((p) => p.from)).to.deep.equal(['/index.html']);
    expect(refused.map((r) => r.from)).to.have.members(['/lost', '/x', '/y', 'https://moss.example/a', '/none']);
  });

  it('says when an address has two targets', () => {
    expect(() =>
      plan([
        { from: '/a', to: '/b' },
        { from: '/a', to: '/c' },
      ]),
    ).to.throw('two targets');
  });

  it('leads every address of the site to its end in one hop, whatever is chosen', () => {
    const path = fc
      .array(fc.constantFrom('a', 'b', 'c', 'd e', 'ü'), { minLength: 1, maxLength: 3 })
      .map((p) => '/' + p.map(encodeURIComponent).join('/'));
    const chosen = fc.uniqueArray(fc.record({ from: path, to: path }), { selector: (c) => c.from, maxLength: 12 });
    fc.assert(
      fc.property(
        chosen,
        path,
        fc.constantFrom('http://', 'https://'),
        fc.constantFrom('', 'www.'),
        (moves, asked, scheme, www) => {
          const made = plan(moves);
          const first = promised(made, `${scheme}${www}fernhollow.example${asked}`);
          if (!first?.location) return;
          expect(first.location.startsWith(HOME)).to.equal(true);
          expect(promised(made, first.location), `${asked} by ${JSON.stringify(moves)}`).to.equal(undefined);
        },
      ),
    );
  });

  it('is for the hosts of the home, whatever other hosts of the site show', () => {
    const asked = (from: string, verdict: Entrance['verdict'], end: string): Entrance => ({
      from,
      family: 'IPv4',
      hops: [],
      end: { url: end, status: 200 },
      why: 'entrance',
      verdict,
      says: '',
    });
    const made = rulesFor(
      [
        asked('https://shop.fernhollow.example/', 'direct', 'https://shop.fernhollow.example/'),
        asked('http://shop.fernhollow.example/', 'loop', 'http://shop.fernhollow.example/'),
        asked('http://fernhollow.example/', 'temporary', HOME),
      ],
      [],
      ['https://shop.fernhollow.example/old/alive'],
      HOME,
    );
    expect(made.origin).to.equal('https://www.fernhollow.example');
    expect(made.canonical).to.contain('(found: temporary)');
  });

  it('cannot be made to write a line of its own', () => {
    const evil = '/a\n}\nreturn 200;#"\'`{$uri}';
    for (const server of ['nginx', 'apache', 'caddy'] as const) {
      const text = RULES[server].write(
        plan([
          { from: evil, to: '/b"; return 200' },
          { from: '/c', to: evil },
        ]),
      );
      expect(
        text.split('\n').some((l) => /^\s*(return 200|\})?;?#?"/.test(l)),
        server,
      ).to.equal(false);
    }
  });
});
