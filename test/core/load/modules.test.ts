import { expect } from 'chai';
import fc from 'fast-check';
import { buildGraph } from '../../../src/core/load/build';
import { moduleImports, neededBy } from '../../../src/core/load/modules';
import { capture, har, PAGE, type MadeFacts, type MadeLoad } from '../../fixtures/har';
import { fetchNode, graphOf, ms, replay, script } from '../../fixtures/graph';

const page = (html: string, loads: readonly MadeLoad[], facts?: MadeFacts) =>
  capture(har([{ url: PAGE, body: html }, ...loads], facts)).page;
const file = (
  name: string,
  body: string,
  start: number,
  initiator: object = { type: 'script', url: PAGE },
): MadeLoad => ({
  url: PAGE + name,
  body,
  start,
  lens: { initiator },
});

describe('core/load/modules: static imports (HTML, 8.1.6.2)', () => {
  it('are read from the sources, with import maps, and without calls of import()', () => {
    const p = page(
      '<script type="importmap">{"imports":{"beds":"/beds.js","lib/":"/lib/"}}</script><script type="module" src="/a.js"></script>',
      [
        file('a.js', 'import {b} from "beds"; import "./c.js"; import("./later.js"); export * from "lib/d.js"', 30),
        file('beds.js', 'export const b = 1', 60),
        file('c.js', '// import "./none.js"\nconst text = "from \'./d.js\'";', 61),
        file('lib/d.js', 'export default 2', 62),
        file('later.js', 'export default 3', 90),
      ],
    );
    const imports = moduleImports(p);
    expect(imports.get(1)).to.deep.equal([2, 3, 4]);
    expect([...imports.keys()]).to.deep.equal([1]);
  });

  it('never end in a circle, and each module comes after what it needs', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(7), fc.nat(7)), { maxLength: 20 }), (edges) => {
        const imports = new Map<number, number[]>();
        for (const [from, to] of edges) imports.set(from, [...(imports.get(from) ?? []), to]);
        for (let at = 0; at < 8; at++) {
          const all = neededBy(at, imports);
          expect(new Set(all).size).to.equal(all.length);
          expect(all).not.to.include(at);
        }
      }),
    );
  });
});

describe('core/load: the module graph', () => {
  const p = page('<!doctype html><body><p>Beds</p><script type="module" src="/a.js"></script>', [
    file('a.js', 'import "./b.js"', 30, { type: 'parser', url: PAGE, line: 1 }),
    file('b.js', 'import "./c.js"', 60),
    file('c.js', 'export default 1', 90),
  ]);
  const g = buildGraph(p);

  it('asks for an imported module when its importer has come, not when that has run', () => {
    expect(g.fetches.map((f) => f.discovery.by)).to.deep.equal(['navigation', 'scanner', 'fetch', 'fetch']);
    expect(g.fetches[3]?.discovery).to.deep.include({ fetch: 2 });
    expect(g.scripts.map((s) => s.mode)).to.deep.equal(['defer', 'import', 'import']);
    expect(g.scripts[0]?.imports).to.deep.equal([2, 1]);
  });

  it('runs nothing before all of it is there, and DOMContentLoaded waits', () => {
    const r = replay(g);
    expect(r.scripts[0]?.startMs).to.be.at.least(r.fetches[3]?.endMs ?? Infinity);
    expect(r.milestones.dclMs).to.be.at.least(r.scripts[0]?.endMs ?? Infinity);
    expect(r.scripts[2]?.startMs).to.equal(r.scripts[0]?.startMs);
  });

  it('runs imported modules with the one that imports them: their work counts once', () => {
    const fetches = [1, 2, 3].map((id) => fetchNode(id, { kind: 'script' }));
    const modules = (imports: number[]) =>
      graphOf(fetches, {
        scripts: [
          script(0, 1, { mode: 'defer', imports: [2] }),
          script(1, 2, { mode: 'defer', imports }),
          script(2, 3, { mode: 'import', runMs: 200 }),
        ],
      });
    expect(ms(modules([2])).dclMs).to.be.closeTo(ms(modules([])).dclMs, 1);
  });

  it('gives a run that the recording does not name to the module that was there for it', () => {
    const loads = [
      file('a.js', 'import "./b.js"', 30, { type: 'parser', url: PAGE, line: 1 }),
      file('b.js', 'export default 1', 60),
    ];
    const facts: MadeFacts = {
      work: [{ kind: 'script', startMs: 100, durationMs: 25, phase: 'evaluate' }],
      onContentLoad: 126,
    };
    const named = buildGraph(page('<body><p>Beds</p><script type="module" src="/a.js"></script>', loads, facts));
    expect(named.scripts[0]?.runMs).to.equal(25);
  });
});
