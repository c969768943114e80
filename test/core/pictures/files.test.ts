import { expect } from 'chai';
import fc from 'fast-check';
import {
  cacheClass,
  FILE_GROUPS,
  FILE_SORTS,
  fileFacets,
  fileType,
  filterFiles,
  groupFiles,
  sortFiles,
  totalOf,
  weightSentence,
} from '../../../src/core/pictures/fileQuery';
import { FilesOfSweep, type FilesOfPage, type SweepFile } from '../../../src/core/pictures/files';
import { packFiles, unpackFiles, type PackedFiles } from '../../../src/core/pictures/packFiles';
import { transferBytes } from '../../../src/core/capture/capture';
import { repeatVisit } from '../../../src/core/load/repeatVisit';
import { faultyPage } from '../../fixtures/faultyPage';

const file = (values: Partial<SweepFile>): SweepFile => ({
  url: 'https://www.fernhollow.example/a.css',
  host: 'www.fernhollow.example',
  folder: '/',
  kind: 'style',
  type: 'text/css',
  status: 200,
  protocol: 'HTTP/2',
  thirdParty: false,
  bytes: 100,
  decodedBytes: 300,
  delivered: 100,
  needed: 100,
  drawn: [],
  alts: [],
  place: 1,
  again: 100,
  uses: [[1, 100, 100, 100]],
  ...values,
});
/** The files of pages that are added one after the other. */
function filesOf(pages: readonly FilesOfPage[]): SweepFile[] {
  const list = new FilesOfSweep();
  for (const page of pages) list.add(page);
  expect(list.pages).to.equal(pages.length);
  return list.files();
}
const NAMES = new Map([
  [1, { page: 'https://www.fernhollow.example/', template: { id: 't1', name: '/' } }],
  [2, { page: 'https://www.fernhollow.example/visit/', template: { id: 't2', name: '/*' } }],
  [3, { page: 'https://www.fernhollow.example/talks/', template: { id: 't2', name: '/*' } }],
]);

describe('core/pictures: files', () => {
  it('counts each file once, with what its pages need of it', () => {
    const audit = faultyPage();
    const { capture } = audit.page;
    const sheet = capture.loads.find((l) => l.kind === 'style')?.url ?? '';
    const of = (id: number) => ({
      captureId: id,
      capture,
      graph: audit.graph,
      fixes: audit.fixes,
      findings: audit.findings,
      usedShares: new Map([[sheet, id / 10]]),
      alts: new Map([[capture.loads.find((l) => l.kind === 'image')?.url ?? '', ['A fern']]]),
    });
    const files = filesOf([of(1), of(2)]);
    const urls = new Set(capture.loads.map((l) => l.url));
    expect(files.find((f) => f.url === sheet)?.usedShare).to.equal(0.2);
    expect(files.map((f) => f.url)).to.have.members([...urls]);
    const all = capture.loads.reduce((n, l) => n + transferBytes(l), 0);
    expect(totalOf(files)).to.include({ delivered: 2 * all, pages: 2, files: urls.size });
    const kept = new Set(
      repeatVisit(audit.graph).fetches.flatMap((f) => (f.kept ? [capture.loads[f.load]?.url ?? ''] : [])),
    );
    for (const f of files) {
      expect(f.again, f.url).to.be.within(0, f.delivered);
      if (kept.has(f.url)) expect(f.again, f.url).to.equal(0);
      expect(f.needed, f.url).to.be.within(0, f.delivered);
      expect(f.uses.map((u) => u[0])).to.deep.equal([1, 2]);
      expect(f.why === undefined, f.url).to.equal(f.needed === f.delivered);
    }
    const smaller = audit.fixes.find((f) => f.kind === 'image-resize');
    const picture = files.find((f) => f.url === smaller?.target);
    const load = capture.loads.find((l) => l.url === smaller?.target);
    expect(picture?.needed).to.equal(2 * ((smaller?.values['bytes'] ?? 0) + (load?.headerBytes ?? 0)));
    expect(picture?.why).to.match(/larger than displayed/);
    expect(files.some((f) => f.alts.includes('A fern'))).to.equal(true);
  });

  it('needs nothing of what is never shown, preloaded for nothing or sent twice', () => {
    const audit = faultyPage();
    const { capture } = audit.page;
    const [first, second] = capture.loads.filter((l) => l.kind !== 'document');
    const hidden = { ...audit.findings[0], check: 'picture-hidden', target: '*' } as (typeof audit.findings)[number];
    const twice = { ...hidden, check: 'duplicate-body', target: second?.url ?? '', evidence: { numbers: {} } };
    const findings = [{ ...hidden, evidence: { numbers: {}, files: [{ url: first?.url ?? '', bytes: 1 }] } }, twice];
    const files = filesOf([
      { captureId: 1, capture, graph: audit.graph, fixes: [], findings, usedShares: new Map(), alts: new Map() },
    ]);
    expect(files.find((f) => f.url === first?.url)).to.include({ needed: 0, why: 'never shown to this visitor' });
    expect(files.find((f) => f.url === second?.url)).to.include({ needed: 0 });
  });

  const anyFile = fc
    .record({
      url: fc.nat(40).map((n) => `https://${n % 3 ? 'www' : 'media'}.fernhollow.example/${n % 5}/${n}.js`),
      kind: fc.constantFrom('style', 'script', 'image' as const),
      uses: fc
        .uniqueArray(fc.constantFrom(1, 2, 3), { minLength: 1 })
        .chain((ids) =>
          fc.tuple(
            ...ids.map((id) => fc.tuple(fc.constant(id), fc.nat(5000), fc.double({ min: 0, max: 1, noNaN: true }))),
          ),
        ),
    })
    .map(({ url, kind, uses }) => {
      const own = uses.map(([id, d, share]) => [id, d, Math.floor(d * share), d] as const);
      const sum = (at: 1 | 2) => own.reduce((n, u) => n + u[at], 0);
      return file({
        again: own.reduce((n, u) => n + u[3], 0),
        url,
        kind,
        host: new URL(url).hostname,
        uses: own,
        delivered: sum(1),
        needed: sum(2),
      });
    });
  const anyFiles = fc.uniqueArray(anyFile, { selector: (f) => f.url, maxLength: 12 });

  it('puts every delivered byte into exactly one group, whichever way they are put together', () => {
    fc.assert(
      fc.property(anyFiles, fc.constantFrom(...FILE_GROUPS), (files, by) => {
        const groups = groupFiles(files, by, NAMES);
        const total = totalOf(files);
        expect(groups.reduce((n, g) => n + g.delivered, 0)).to.equal(total.delivered);
        expect(groups.reduce((n, g) => n + g.needed, 0)).to.equal(total.needed);
      }),
    );
  });

  it('finds the first few of an order without sorting the rest', () => {
    fc.assert(
      fc.property(anyFiles, fc.constantFrom(...FILE_SORTS), fc.boolean(), fc.nat(14), (files, sort, falling, most) => {
        expect(sortFiles(files, sort, falling, most)).to.deep.equal(sortFiles(files, sort, falling).slice(0, most));
      }),
    );
  });

  it('are packed and unpacked without a loss', () => {
    const few = anyFile.chain((f) =>
      fc
        .record(
          {
            encoding: fc.constantFrom('br', 'gzip'),
            why: fc.constantFrom('not minified', 'is never shown'),
            freshS: fc.nat(9),
            usedShare: fc.double({ min: 0, max: 1, noNaN: true }),
            bodyHash: fc.string(),
            alts: fc.array(fc.string()),
            drawn: fc.array(fc.constantFrom('10x10', '20x20')),
            thirdParty: fc.boolean(),
          },
          { requiredKeys: [] },
        )
        .map((more) => ({ ...f, ...more })),
    );
    fc.assert(
      fc.property(fc.array(few, { maxLength: 8 }), (files) => {
        const packed = JSON.parse(JSON.stringify(packFiles(files))) as PackedFiles;
        expect(unpackFiles(packed)).to.deep.equal(files.map((f) => JSON.parse(JSON.stringify(f)) as SweepFile));
      }),
    );
  });

  it('shows behind a group just the bytes that the group states', () => {
    fc.assert(
      fc.property(anyFiles, fc.constantFrom(...FILE_GROUPS), (files, by) => {
        for (const g of groupFiles(files, by, NAMES)) {
          const value = by === 'page' ? { page: Number(g.key) } : { [by]: g.key };
          const { files: n, delivered, needed } = totalOf(filterFiles(files, value, NAMES));
          expect({ n, delivered, needed }).to.deep.equal({ n: g.files, delivered: g.delivered, needed: g.needed });
        }
      }),
    );
  });

  it('narrows by words, type, cache, party and by what is too much', () => {
    const files = [
      file({
        url: 'https://media.fernhollow.example/fern.webp',
        host: 'media.fernhollow.example',
        kind: 'image',
        type: 'image/webp',
        alts: ['A tall fern'],
        freshS: 3600,
        needed: 40,
      }),
      file({
        url: 'https://count.petalmetrics.example/count.js',
        host: 'count.petalmetrics.example',
        kind: 'script',
        thirdParty: true,
        freshS: 0,
      }),
      file({ freshS: 90 * 86_400 }),
    ];
    const hosts = (filter: Parameters<typeof filterFiles>[1]) =>
      filterFiles(files, filter, NAMES).map((f) => f.host.split('.')[0]);
    expect(hosts({ search: 'TALL fern' })).to.deep.equal(['media']);
    expect(hosts({ type: 'image/webp' })).to.deep.equal(['media']);
    expect(hosts({ party: 'third' })).to.deep.equal(['count']);
    expect(hosts({ party: 'own' })).to.deep.equal(['media', 'www']);
    expect(hosts({ heavy: true })).to.deep.equal(['media']);
    expect(hosts({ cache: 'never' })).to.deep.equal(['count']);
    expect(files.map((f) => cacheClass(f.freshS))).to.deep.equal(['under a day', 'never', 'a month or more']);
    expect(cacheClass(undefined)).to.equal('not known');
    expect(fileFacets(files).types).to.deep.include({ value: 'image/webp', files: 1 });
    expect(files.map(fileType)).to.deep.equal(['image/webp', 'script', 'style']);
    expect(sortFiles(files, 'saved', true)[0]?.host).to.equal('media.fernhollow.example');
    expect(sortFiles(files, 'host', false).map((f) => f.host.split('.')[0])).to.deep.equal(['count', 'media', 'www']);
    expect(weightSentence(totalOf(files))).to.equal(
      '300 B are delivered over one page in 3 files; 240 B are needed: 20 % could be saved. A second visit a day later transfers 300 B.',
    );
    expect(weightSentence(totalOf([]))).to.equal('Nothing was transferred.');
  });
});
