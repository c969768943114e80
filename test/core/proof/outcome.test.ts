import { expect } from 'chai';
import { VISITORS } from '../../../src/core/load/visitors';
import { offering, outcomeOf, type Recorded } from '../../../src/core/proof/outcome';
import type { Audit } from '../../../src/core/plan/audit';
import { auditOf, PAGE, type MadeLoad } from '../../fixtures/har';

const phone = VISITORS.find((v) => v.id === 'phone-busy')!;
const HEAD = `${PAGE}js/head.js`;

/** A page whose head script blocks it, deferred or not; its server takes so long. */
function recorded({ deferred = false, wait = 20, extra = '' } = {}): Recorded {
  const body = `<!doctype html><html><head><title>Garden</title><script${deferred ? ' defer' : ''} src="/js/head.js"></script></head><body><h1>Plant sale</h1><img src="/hero.jpg" width="400" height="300">${extra}</body></html>`;
  const loads: MadeLoad[] = [
    { url: HEAD, body: 'var a=1;'.repeat(20_000), start: 60, wait },
    { url: `${PAGE}hero.jpg`, bytes: 60_000, start: 60, wait },
    ...(extra ? [{ url: `${PAGE}js/late.js`, body: 'var b;'.repeat(20_000), start: 60, wait }] : []),
  ];
  const hero = { timeMs: 600, size: 120_000, tag: 'img', url: `${PAGE}hero.jpg` };
  const audit: Audit = auditOf(body, loads, { hero }, PAGE, { wait });
  return {
    page: PAGE,
    device: 'phone',
    graph: audit.graph,
    fixes: audit.fixes,
    findings: audit.findings.map(({ id, check, title, target }) => ({ id, check, title, target })),
  };
}

describe('core/proof/outcome', () => {
  const before = recorded();
  const group = before.fixes.find((f) => f.kind === 'script-defer')?.group ?? '';
  const done = [{ group, title: 'Defer head.js' }];

  it('finds that a promise was kept, and the findings gone', () => {
    const outcome = outcomeOf([before], [recorded({ deferred: true })], done, phone);
    expect(outcome.fixes[0]).to.include({ verdict: 'kept', gone: 1 });
    expect(outcome.fixes[0]?.still).to.deep.equal([]);
    expect(outcome.pages[0]?.measuredMs).to.be.closeTo(outcome.pages[0]?.promisedMs ?? 0, 100);
  });

  it('says what was not done, and what came back', () => {
    const again = recorded();
    expect(outcomeOf([before], [again], done, phone).fixes[0]).to.include({ verdict: 'not done', gone: 0 });
    const back = outcomeOf([before], [again], done, phone, new Map([[group, 'kept' as const]])).fixes[0];
    expect(back?.verdict).to.equal('came back');
    expect(back?.still[0]?.target).to.equal(HEAD);
  });

  it('does not count a busy server against a fix, and shows its waits apart', () => {
    const outcome = outcomeOf([before], [recorded({ deferred: true, wait: 900 })], done, phone);
    expect(outcome.fixes[0]?.verdict).to.equal('kept');
    expect(outcome.pages[0]?.waits.afterMs).to.be.above((outcome.pages[0]?.waits.beforeMs ?? 0) + 700);
  });

  it('names what took its place and what is new, and that a fix won less by it', () => {
    const swapped = recorded({ deferred: true, extra: '' });
    const more = recorded({ deferred: true });
    const html = recorded({ deferred: true, extra: '<script src="/js/late.js"></script>' });
    expect(outcomeOf([before], [swapped], done, phone).pages[0]?.fresh).to.deep.equal(
      outcomeOf([before], [more], done, phone).pages[0]?.fresh,
    );
    expect(outcomeOf([before], [html], done, phone).pages[0]?.fresh.length).to.be.above(0);
  });

  it('keeps the verdict of what was seen to be done and still is', () => {
    const slow = '<script src="/js/late.js"></script>';
    const now = recorded({ deferred: true, extra: slow });
    const alone = outcomeOf([before], [now], done, phone).fixes[0];
    const settled = outcomeOf([before], [now], done, phone, new Map([[group, 'more' as const]])).fixes[0];
    expect(alone?.verdict).to.not.equal('more');
    expect(settled?.verdict).to.equal('more');
    // A verdict that says nothing of what was won is none to keep.
    const undone = outcomeOf([before], [now], done, phone, new Map([[group, 'not looked at' as const]])).fixes[0];
    expect(undone?.verdict).to.equal(alone?.verdict);
  });

  it('takes each group from recordings that offer it', () => {
    const { offered, missing } = offering([before, recorded({ deferred: true })], new Set([group, 'gone|x']));
    expect(offered.map((r) => r.fixes.map((f) => f.group))).to.deep.equal([[group]]);
    expect([...missing]).to.deep.equal(['gone|x']);
  });

  it('says that pages were not looked at again', () => {
    expect(outcomeOf([before], [], done, phone).fixes[0]?.verdict).to.equal('not looked at');
  });
});
