import { expect } from 'chai';
import { applyFixes } from '../../../src/core/fixes/applyFixes';
import { fixChanges } from '../../../src/core/fixes';
import type { Fix } from '../../../src/core/fixes/fix';
import { auditOf, PAGE, type MadeLoad } from '../../fixtures/har';

const DATA = 'https://data.fernhollow.example';
const fix = { kind: 'preconnect', page: PAGE, target: `${DATA}/`, values: {} } as Fix;
const byScript = { kind: 'data', initiator: { type: 'script', url: PAGE } };
const json: MadeLoad = { url: `${DATA}/beds.json`, bytes: 900, start: 300, lens: byScript };
const picture: MadeLoad = { url: `${DATA}/plan.jpg`, bytes: 90_000, start: 400 };

describe('core/fixes: early connections', () => {
  const made = (loads: readonly MadeLoad[], head = '', page: Partial<MadeLoad> = {}) => {
    const html = `<!doctype html><html><head>${head}<title>x</title></head><body><p>Ferns</p><img src="${picture.url}"></body></html>`;
    const audit = auditOf(html, loads, undefined, PAGE, page);
    const text = fixChanges(fix, audit)[0]?.after ?? '';
    return {
      offered: audit.fixes.filter((f) => f.kind === 'preconnect').length,
      tags: [...text.matchAll(/<link rel="preconnect"[^>]*>/g)].map((m) => m[0]),
      hints: applyFixes(audit.graph, [fix]).preconnects.map((p) => [p.origin, p.anonymous ?? false]),
    };
  };

  it('are of the kind that the requests use: what scripts fetch goes without credentials (Fetch, 2.6)', () => {
    expect(made([json])).to.deep.include({
      tags: [`<link rel="preconnect" href="${DATA}" crossorigin>`],
      hints: [[DATA, true]],
    });
    expect(made([picture])).to.deep.include({
      tags: [`<link rel="preconnect" href="${DATA}">`],
      hints: [[DATA, false]],
    });
  });

  it('are of both kinds where requests of both go to a host', () => {
    const { tags, hints } = made([json, picture]);
    expect(tags).to.have.members([
      `<link rel="preconnect" href="${DATA}" crossorigin>`,
      `<link rel="preconnect" href="${DATA}">`,
    ]);
    expect(hints).to.have.deep.members([
      [DATA, true],
      [DATA, false],
    ]);
  });

  it('stay as they are where the page has them at the top of its head, or in a header', () => {
    const there = `<link rel="preconnect" href="${DATA}">`;
    const header = { headers: { link: `<${DATA}>; rel=preconnect` } };
    expect(made([picture], there).hints).to.deep.equal([[DATA, false]]);
    expect(made([picture], '', header)).to.deep.include({ tags: [], hints: [[DATA, false]] });
    expect(made([picture], there).offered, 'a fix that changes nothing').to.equal(0);
    expect(made([json], there).hints, 'of another kind').to.deep.equal([
      [DATA, false],
      [DATA, true],
    ]);
  });
});
