import { expect } from 'chai';
import fs from 'node:fs';
import path from 'node:path';
import { InputError } from '../../src/core/capture/errors';
import { auditorHtml } from '../../src/core/handover/report/auditor';
import { reportFacts, type ReportFacts } from '../../src/core/handover/report/facts';
import { fixerHtml } from '../../src/core/handover/report/fixer';
import { ownerHtml } from '../../src/core/handover/report/owner';
import { Words } from '../../src/core/handover/report/words';
import { VISITORS, type Visitor } from '../../src/core/load/visitors';
import { auditHar } from '../../src/engine/services/importHar';
import { listLanguages, parseLanguage, readLanguage } from '../../src/engine/services/languages';
import { pagesOfAudits } from '../../src/engine/services/makeReport';
import { projectRoot } from '../../src/engine/store/store';
import { faultOf } from '../fixtures/fault';
import { tempFolder } from '../fixtures/temp';

describe('engine: languages of reports', () => {
  const temp = tempFolder('languages');
  after(() => temp.remove());
  const file = (name: string, value: unknown) => {
    fs.mkdirSync(path.join(temp.folder, 'languages'), { recursive: true });
    fs.writeFileSync(
      path.join(temp.folder, 'languages', name),
      typeof value === 'string' ? value : JSON.stringify(value),
    );
  };

  /** Facts with everything that a report can have, from the demo's captures. */
  async function wholeFacts(): Promise<ReportFacts> {
    const folder = path.join(projectRoot(), 'demo/captures');
    const files = fs
      .readdirSync(folder, { recursive: true })
      .map(String)
      .filter((f) => /(book|home|plant-sale)-phone\.har\.gz$/.test(f))
      .slice(-3);
    expect(files).to.have.length(3);
    const read = [];
    for (const f of files) read.push(...(await auditHar(fs.readFileSync(path.join(folder, f)), f)));
    const [one] = read;
    const field = { of: 'page', address: '', device: 'phone', month: '2026-10', shares: {}, visits: 1240 } as const;
    return reportFacts(pagesOfAudits(read), { site: 'Fernhollow', day: '2026-11-26' }, VISITORS[0] as Visitor, {
      field: { [one?.read.capture.page ?? '']: { ...field, p75: { lcpMs: 4100, fcpMs: 2000 } } },
      film: { title: 'Home', visitor: 'Phone, busy mobile', fixes: 2, moments: [{ atMs: 1200 }] },
      since: {
        day: '2026-11-05',
        thenMs: 6400,
        nowMs: 3100,
        pages: 8,
        gone: [],
        appeared: [
          {
            plain: 'Browsers block the script: it is missing for every visitor.',
            pages: ['https://www.fernhollow.example/'],
          },
        ],
        cameBack: [],
        promises: [
          { title: 'Defer carousel.js', became: 'kept', kept: true },
          { title: 'Compress text of www.fernhollow.example', became: 'came back', kept: false },
        ],
      },
    });
  }

  it('German says everything that the demo’s reports say', async function () {
    this.timeout(60_000);
    const language = await readLanguage('de', temp.folder);
    const facts = await wholeFacts();
    for (const write of [ownerHtml, fixerHtml, auditorHtml]) {
      const words = new Words(language);
      const out = write(facts, words);
      expect([...words.missing], write.name).to.deep.equal([]);
      expect(out).to.contain('<html lang="de">');
      expect(out.replace(/<[^>]+>/g, ' ')).to.match(/wartet \d+,\d s auf das Hauptbild/);
    }
    const plain = ownerHtml(facts).replace(/<[^>]+>/g, ' ');
    expect(plain)
      .to.contain('What to do, in this order')
      .and.to.match(/waits \d+\.\d s for the main picture/);
  });

  it('lists those that ship and those beside the database, and passes over a broken file', async () => {
    file('x.json', { language: 'nl', name: 'Nederlands', texts: { Page: 'Pagina' } });
    file('broken.json', '{');
    expect(await listLanguages(temp.folder)).to.deep.include.members([
      { language: 'en', name: 'English' },
      { language: 'de', name: 'Deutsch' },
      { language: 'nl', name: 'Nederlands' },
    ]);
    expect((await readLanguage('nl', temp.folder))?.texts).to.deep.equal({ Page: 'Pagina' });
    expect(await readLanguage('en', temp.folder)).to.equal(undefined);
    const missing = await readLanguage('xx', temp.folder).then(
      () => undefined,
      (e: unknown) => e as InputError,
    );
    expect(missing?.what).to.equal('There is no language "xx".');
    // A tag is no path: no file elsewhere is read by it.
    const elsewhere = await readLanguage(path.join(temp.folder, 'languages', 'x.json'), temp.folder).catch(
      (e: unknown) => e,
    );
    expect(elsewhere).to.be.instanceOf(InputError);
  });

  it('says what is wrong in a file', () => {
    const read = (value: unknown) => faultOf(() => parseLanguage(JSON.stringify(value), 'a.json')).what;
    expect(faultOf(() => parseLanguage('{', 'a.json'))).to.include({
      where: 'a.json',
      what: 'The language file is no JSON.',
    });
    expect(read(null)).to.equal('The file has no "texts".');
    expect(read({ texts: {} })).to.match(/It says no "(name|language)"/);
    expect(read({ language: 'Deutsch!', name: 'x', texts: {} })).to.contain('written like "de"');
    expect(read({ language: 'de', name: 'x', texts: { a: 1 } })).to.contain('is no text');
    expect(read({ language: 'de', name: 'x', texts: { 'a {n}': 'b {m}' } })).to.contain('{m}');
  });
});
