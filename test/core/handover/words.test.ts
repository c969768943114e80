import { expect } from 'chai';
import fc from 'fast-check';
import { ENGLISH, placeholders, Words } from '../../../src/core/handover/report/words';
import { html } from '../../../src/core/handover/report/html';

const german = new Words({
  language: 'de',
  name: 'Deutsch',
  texts: {
    'Now {time}, then {after}.': 'Erst {after}, jetzt {time}.',
    'saves {time}': 'spart {time}',
    '{effect} ({range})': '{effect} ({range})',
    '{low} to {high}': '{low} bis {high}',
    'Compress {file}': '{file} komprimieren',
    'Compress text of {host}': 'Text von {host} komprimieren',
    '{title} ({where})': '{title} ({where})',
    '{n} pages': '{n} Seiten',
    phone: 'Telefon',
  },
});

describe('core/handover/report: words of a language', () => {
  it('put values in the order that the language wants, and escape them', () => {
    expect(ENGLISH.text('Now {time}, then {after}.', { time: '2 s', after: 'x' })).to.equal('Now 2 s, then x.');
    expect(german.text('Now {time}, then {after}.', { time: '2.5 s', after: '2,5 s' })).to.equal(
      'Erst 2,5 s, jetzt 2.5 s.',
    );
    expect(german.html('Now {time}, then {after}.', { time: html`<b>1</b>`, after: '<i>' }).text).to.equal(
      'Erst &lt;i&gt;, jetzt <b>1</b>.',
    );
  });

  it('say times, ranges and effects with the marks of the language', () => {
    expect(german.time(6400)).to.equal('6,4 s');
    expect(german.effect(-1300, [-1600, -1200])).to.equal('spart 1,3 s (1,2 bis 1,6 s)');
    expect(german.text('{n} pages', { n: 1240 })).to.equal('1.240 Seiten');
    expect(german.month('2026-10')).to.equal('Oktober 2026');
    expect(german.saving(-1300, [-1600, 50])).to.equal('1,3 s (-0,1 bis 1,6 s)');
    expect(ENGLISH.saving(-1300)).to.equal('1.3 s');
    expect(german.day('2026-11-05')).to.equal('5. November 2026');
    expect(ENGLISH.day('no day')).to.equal('no day');
    expect(ENGLISH.effect(-1300, [-1600, -1200])).to.equal('saves 1.3 s (1.2 to 1.6 s)');
  });

  it('say texts that were put together elsewhere by the pattern that says most itself', () => {
    expect(german.phrase('Compress text of www.fernhollow.example')).to.equal(
      'Text von www.fernhollow.example komprimieren',
    );
    expect(german.phrase('Compress kit.js (www.fernhollow.example)')).to.equal(
      'kit.js komprimieren (www.fernhollow.example)',
    );
    expect(german.missing.size).to.equal(0);
  });

  it('leave what the file has not in English, and tell of it', () => {
    const some = new Words({ language: 'de', name: 'Deutsch', texts: {} });
    expect(some.text('Page')).to.equal('Page');
    expect(some.phrase('A finding.')).to.equal('A finding.');
    expect([...some.missing]).to.deep.equal(['Page', 'A finding.']);
  });

  it('never lose or double a value, whatever stands in it', () => {
    fc.assert(
      fc.property(fc.string(), fc.string(), (a, b) => {
        const said = german.html('Now {time}, then {after}.', { time: html`${a}`, after: html`${b}` }).text;
        expect(said).to.equal(`Erst ${html`${b}`.text}, jetzt ${html`${a}`.text}.`);
      }),
    );
    expect(placeholders('{a} and {b} and {a}')).to.deep.equal(['a', 'b', 'a']);
  });
});
