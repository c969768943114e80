import zlib from 'node:zlib';
import { expect } from 'chai';
import sharp from 'sharp';
import { makeFix, type FixKindId } from '../../src/core/fixes/fix';
import { fixKind } from '../../src/core/fixes';
import type { Audit } from '../../src/core/plan/audit';
import { editedSite, measuredFixes } from '../../src/engine/imaging/editedSite';
import { auditOf, PAGE, picture } from '../fixtures/har';

const fix = (audit: Audit, kind: FixKindId, target: string, values = {}) =>
  makeFix({ kind: fixKind(kind)!, page: audit.page, target, findings: [], title: kind, group: target, values });

describe('engine/imaging/editedSite', () => {
  const script = `// ${'What this does. '.repeat(40)}\nfunction plant(name) {\n    return name + ' grows';\n}\nwindow.plant = plant;\n`;
  const sheet = `.lead{color:red}\n${'.idle{margin:0 1px 2px 3px}\n'.repeat(200)}`;
  let audit: Audit;
  before(async () => {
    const noise = Buffer.from(Array.from({ length: 600 * 400 * 3 }, (_, i) => (i * 2654435761) % 251));
    const jpeg = await sharp(noise, { raw: { width: 600, height: 400, channels: 3 } })
      .jpeg()
      .toBuffer();
    audit = auditOf(
      '<!doctype html><html><head><link rel="stylesheet" href="/a.css"><script src="/a.js"></script></head><body><h1 class="lead">x</h1><img src="/a.jpg"></body></html>',
      [
        { url: PAGE + 'a.css', body: sheet, start: 60 },
        { url: PAGE + 'a.js', body: script, start: 60 },
        { url: PAGE + 'a.jpg', body: jpeg, start: 60 },
      ],
      {
        pictures: [
          picture(PAGE + 'a.jpg', {
            path: 'html:nth-of-type(1)>body:nth-of-type(1)>img:nth-of-type(1)',
            box: { x: 0, y: 100, width: 100, height: 67 },
          }),
        ],
      },
    );
  });

  it('really minifies, cuts, compresses and re-encodes', async () => {
    const site = await editedSite(
      [
        fix(audit, 'minify', PAGE + 'a.js'),
        fix(audit, 'style-remove-unused', PAGE + 'a.css'),
        fix(audit, 'text-compress', PAGE + 'a.css'),
        fix(audit, 'image-resize', PAGE + 'a.jpg'),
        fix(audit, 'script-defer', '*'),
      ],
      audit,
    );
    const text = (name: string) => site.files.get(PAGE + name)?.body.toString() ?? '';
    expect(text('a.js')).to.match(/^function plant\(\w\)\{return \w\+" grows"\}window\.plant=plant;?\s*$/);
    expect(text('a.css').trim()).to.equal('.lead{color:red}');
    expect(site.files.get(PAGE + 'a.css')).to.include({ gzip: true });
    expect(site.files.get(PAGE + 'a.css')?.wireBytes).to.equal(zlib.gzipSync(text('a.css'), { level: 6 }).length);
    expect(text('')).to.contain('<script defer src="/a.js">');
    const small = await sharp(site.files.get(PAGE + 'a.jpg')?.body).metadata();
    expect(small.width).to.equal(251);
  });

  it('copies files, sets headers and waits, and names fonts to convert', async () => {
    const site = await editedSite(
      [
        fix(audit, 'self-host', PAGE + 'a.css'),
        fix(audit, 'server-faster', PAGE, { wait: 120 }),
        fix(audit, 'cache-policy', '*'),
      ],
      audit,
    );
    const copy = [...site.files.keys()].find((u) => u.includes('/own/'));
    expect(copy).to.match(/\/own\/\w+\/a\.css$/);
    expect(site.waits.get(PAGE)).to.equal(120);
    expect(site.headers.map((h) => h.url)).to.include.members([PAGE + 'a.css', PAGE + 'a.js', PAGE + 'a.jpg']);
  });

  it('measures what a fix leaves open, file by file; what cannot be parsed stays', async () => {
    const [script, ...none] = await measuredFixes(fix(audit, 'minify', PAGE + 'a.js'), audit);
    expect(none).to.deep.equal([]);
    expect(script?.values.bytes).to.be.within(20, 120);
    const critical = await measuredFixes(fix(audit, 'style-inline-critical', '*'), audit);
    expect(critical[0]?.values.decoded).to.be.within(20, 120);
    const broken = auditOf('<script src="/b.js"></script>', [{ url: PAGE + 'b.js', body: 'function (', start: 60 }]);
    expect((await measuredFixes(fix(broken, 'minify', PAGE + 'b.js'), broken))[0]?.values.bytes).to.equal(10);
  });
});
