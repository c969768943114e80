import { expect } from 'chai';
import fc from 'fast-check';
import { currentSweep, timeOfSweep } from '../../../src/core/site/currentSweep';
import { followRedirects, linkDepths } from '../../../src/core/site/linkGraph';
import { PAGE_FLAGS, readPageFilter, writePageFilter } from '../../../src/core/site/pageFilter';
import {
  defaultSettings,
  HIDDEN,
  PRESETS,
  presetOf,
  shownSettings,
  withSecretsOf,
} from '../../../src/core/site/settings';
import { groupTemplates, templateName } from '../../../src/core/site/template';
import { MAX_VARIANTS, TrapWatch } from '../../../src/core/site/traps';

describe('core/site/traps', () => {
  const at = 'https://www.fernhollow.example';

  it('stops endless paths, but not paths that only look alike', () => {
    const watch = new TrapWatch(2026);
    expect(watch.judge(`${at}/a/b/a/b/a/b/`)).to.equal('endless-path');
    expect(watch.judge(`${at}/a/a/a/`)).to.equal('endless-path');
    expect(watch.judge(`${at}/2026/11/11/`)).to.equal(undefined);
    expect(watch.judge(`${at}/${Array.from({ length: 21 }, (_, i) => i).join('/')}/`)).to.equal('endless-path');
    expect(watch.judge(`${at}/${'x'.repeat(2000)}`)).to.equal('too-long');
  });

  it('follows a calendar a while, then no further', () => {
    const watch = new TrapWatch(2026);
    expect(watch.judge(`${at}/events/2027-05/`)).to.equal(undefined);
    expect(watch.judge(`${at}/events/?month=2031-05`)).to.equal('calendar');
    expect(watch.judge(`${at}/events/1999/12/`)).to.equal('calendar');
    expect(watch.judge(`${at}/plants/no-2099/`)).to.equal(undefined);
  });

  it('visits so many variants of a path', () => {
    const watch = new TrapWatch(2026);
    for (let i = 0; i < MAX_VARIANTS; i++) expect(watch.judge(`${at}/list?p=${i}`)).to.equal(undefined);
    expect(watch.judge(`${at}/list?p=x`)).to.equal('variants');
    expect(watch.judge(`${at}/other?p=x`)).to.equal(undefined);
  });
});

describe('core/site/linkGraph', () => {
  it('counts the fewest links from home; redirects cost none', () => {
    // 0 -> 1 -> 2, 0 -> 3 which redirects to 4, 4 -> 2; nothing leads to 5.
    const graph = {
      pages: 6,
      links: Int32Array.from([0, 1, 1, 2, 0, 3, 4, 2]),
      redirects: Int32Array.from([-1, -1, -1, 4, -1, -1]),
    };
    expect([...linkDepths(graph, [0])]).to.deep.equal([0, 1, 2, 1, 1, -1]);
    expect([...linkDepths(graph, [])]).to.deep.equal([-1, -1, -1, -1, -1, -1]);
  });

  it('follows redirects to their end and notices a circle', () => {
    const redirects = Int32Array.from([1, 2, -1, 4, 3]);
    expect(followRedirects(redirects, 0)).to.deep.equal({ page: 2, through: [0, 1], loop: false });
    expect(followRedirects(redirects, 3)).to.deep.include({ through: [3, 4], loop: true });
  });

  it('never gives a page a depth above one more than a page that links to it', () => {
    const edges = fc.array(fc.tuple(fc.nat(19), fc.nat(19)), { maxLength: 60 });
    fc.assert(
      fc.property(edges, (pairs) => {
        const graph = { pages: 20, links: Int32Array.from(pairs.flat()), redirects: new Int32Array(20).fill(-1) };
        const depths = linkDepths(graph, [0]);
        for (const [from, to] of pairs)
          if (depths[from]! >= 0) expect(depths[to]).to.be.within(0, (depths[from] as number) + 1);
      }),
    );
  });
});

describe('core/site/template', () => {
  const frame = ['head', 'nav', 'drawer', 'main', 'foot', 'brand', 'menu'];
  const group = (name: string, own: string[], pages: number) => ({
    fingerprint: name,
    features: [...frame, ...own],
    pages,
  });

  it('tells templates of one frame apart, and forgives a box more or less', () => {
    const of = groupTemplates([
      group('plant', ['portrait', 'facts', 'crumbs', 'related'], 500),
      group('plant with a notice', ['portrait', 'facts', 'crumbs', 'related', 'notice'], 20),
      group('note', ['article', 'time'], 80),
    ]);
    expect(of.get('plant with a notice')).to.equal('plant');
    expect(of.get('note')).to.equal('note');
  });

  it('does not depend on the order in which groups come', () => {
    const groups = [
      group('a', ['x', 'y'], 10),
      group('b', ['x', 'y', 'z'], 10),
      group('c', ['q'], 3),
      group('d', [], 1),
    ];
    const expected = [...groupTemplates(groups)].sort();
    fc.assert(
      fc.property(fc.shuffledSubarray(groups, { minLength: 4, maxLength: 4 }), (mixed) => {
        expect([...groupTemplates(mixed)].sort()).to.deep.equal(expected);
      }),
    );
  });

  it('names a template by the folder that its pages share', () => {
    expect(templateName(['/plants/a/', '/plants/b/', '/plants/c/d'])).to.equal('/plants/*');
    expect(templateName(['/visit/'])).to.equal('/visit/');
    expect(templateName(['/a', '/b/c'])).to.equal('/*');
  });
});

describe('core/site/settings', () => {
  const settings = {
    ...defaultSettings('https://www.fernhollow.example/'),
    headers: [{ name: 'X-Key', value: 'secret' }],
    basicAuth: { username: 'gardener', password: 'secret' },
  };

  it('knows the preset that settings agree with', () => {
    expect(presetOf(settings)?.id).to.equal('normal');
    for (const p of PRESETS) expect(presetOf(p.values)).to.equal(p);
    expect(presetOf({ ...settings, parallel: 3 })).to.equal(undefined);
  });

  it('keeps secrets back, and puts them in again where nothing was changed', () => {
    const shown = shownSettings(settings);
    expect(JSON.stringify(shown)).to.not.contain('secret');
    expect(withSecretsOf(shown, settings)).to.deep.equal(settings);
    const changed = { ...shown, basicAuth: { username: 'gardener', password: 'new' }, headers: [] };
    expect(withSecretsOf(changed, settings)).to.deep.include({
      basicAuth: { username: 'gardener', password: 'new' },
      headers: [],
    });
    expect(
      withSecretsOf({ ...shown, headers: [{ name: 'Other', value: HIDDEN }] }, settings).headers[0]?.value,
    ).to.equal('');
  });
});

describe('core/site/pageFilter', () => {
  it('comes back from an address as it was written into it', () => {
    const lists = fc.array(fc.constantFrom('200', '4xx', 'none', '/plants/'), { minLength: 1, maxLength: 3 });
    const flags = fc.array(fc.constantFrom(...(Object.keys(PAGE_FLAGS) as (keyof typeof PAGE_FLAGS)[])), {
      minLength: 1,
    });
    fc.assert(
      fc.property(lists, flags, (list, flag) => {
        const filter = { words: 'fern', status: list, folder: list, flag };
        const written = writePageFilter(filter);
        expect(readPageFilter((name) => written[name] ?? null)).to.deep.equal(filter);
      }),
    );
  });

  it('leaves out what it does not know', () => {
    expect(readPageFilter((name) => (name === 'flag' ? 'orphan,nonsense' : null))).to.deep.equal({ flag: ['orphan'] });
    expect(readPageFilter(() => null)).to.deep.equal({});
  });
});

describe('core/site/currentSweep', () => {
  const sweep = (id: number, values: object) => ({
    id,
    day: '2026-11-02',
    startedAt: '2026-11-02T09:30:00Z',
    endedAt: null,
    captures: 4,
    ...values,
  });
  const old = sweep(1, { day: '2026-11-01', endedAt: '2026-11-01' });

  it('passes over a sweep that only began, failed or was cancelled', () => {
    const stopped = sweep(2, {});
    expect(currentSweep([stopped, old])).to.equal(old);
    expect(currentSweep([sweep(3, { captures: 0 }), stopped])).to.equal(stopped);
    expect(currentSweep([sweep(4, { startedAt: null }), old])).to.include({ id: 4 });
    expect(currentSweep([])).to.equal(undefined);
  });

  it('tells sweeps of one day apart by their time', () => {
    const [a, b] = [sweep(1, {}), sweep(2, { startedAt: '2026-11-02T14:05:00Z' })];
    expect([timeOfSweep(a, [a, b, old]), timeOfSweep(b, [a, b]), timeOfSweep(a, [a, old])]).to.deep.equal([
      '09:30',
      '14:05',
      undefined,
    ]);
  });
});
