import { expect } from 'chai';
import { MOVE_STEPS, type MoveFacts } from '../../../src/core/move/steps';

type Probe = NonNullable<MoveFacts['probe']>;

const probe: Probe = {
  askedAt: '2026-11-29T09:00:00.000Z',
  entrances: [],
  certificates: [],
  hsts: [],
  versions: [],
};
const robots = (seen: Partial<NonNullable<Probe['robots']>>): MoveFacts => ({
  probe: {
    ...probe,
    robots: { url: 'https://www.fernhollow.example/robots.txt', allowsHome: true, sitemaps: [], ...seen },
  },
  lists: 0,
  dryRuns: 0,
});
const proofOf = (id: string, facts: MoveFacts) => MOVE_STEPS.find((s) => s.id === id)?.proof?.(facts);

describe('core/move/steps', () => {
  it('have ids of their own and stand in the order of their phases', () => {
    expect(new Set(MOVE_STEPS.map((s) => s.id)).size).to.equal(MOVE_STEPS.length);
    const phases = MOVE_STEPS.map((s) => ['prepare', 'moving day', 'after'].indexOf(s.phase));
    expect(phases).to.deep.equal([...phases].sort((a, b) => a - b));
  });

  it('prove nothing before anything was asked', () => {
    for (const step of MOVE_STEPS) expect(step.proof?.({ lists: 0, dryRuns: 0 }), step.id).to.equal(undefined);
    expect(proofOf('robots', { probe, lists: 0, dryRuns: 0 })).to.equal(undefined);
  });

  it('prove that robots.txt lets crawlers in and names https sitemaps', () => {
    expect(proofOf('robots', robots({}))?.holds).to.equal(true);
    expect(proofOf('robots', robots({ allowsHome: false }))?.holds).to.equal(false);
    expect(proofOf('robots', robots({ fault: 'robots.txt answers 503.' }))).to.deep.equal({
      holds: false,
      says: 'robots.txt answers 503.',
    });
    const mixed = proofOf(
      'robots',
      robots({ sitemaps: ['https://www.fernhollow.example/a.xml', 'http://www.fernhollow.example/b.xml'] }),
    );
    expect(mixed?.holds).to.equal(false);
    expect(mixed?.says).to.contain('1 sitemap by http: http://www.fernhollow.example/b.xml');
  });
});
