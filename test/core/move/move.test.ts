import { expect } from 'chai';
import fc from 'fast-check';
import { MentionFinder, type TextKind } from '../../../src/core/move/mentions';
import { rewriteSql, rewriteText } from '../../../src/core/move/rewrite';
import { withChanges } from '../../../src/core/move/serialized';
import { dialectOf, scanSql, type SqlDialect } from '../../../src/core/move/sql';

const HOSTS = ['fernhollow.example', 'www.fernhollow.example'];
const finder = new MentionFinder({ hosts: HOSTS });
const moved = (text: string, kind: TextKind = 'markup', f = finder) =>
  withChanges(text, rewriteText(text, kind, f).changes);
const refused = (text: string, kind: TextKind = 'markup') => finder.find(text, kind).flatMap((m) => m.refused ?? []);

/** A value as PHP serialises it; strings are counted in bytes. */
type Value = string | number | { readonly [key: string]: Value };
function serialise(value: Value): string {
  if (typeof value === 'number') return `i:${value};`;
  if (typeof value === 'string') return `s:${Buffer.byteLength(value)}:"${value}";`;
  const entries = Object.entries(value);
  return `a:${entries.length}:{${entries.map(([k, v]) => serialise(k) + serialise(v)).join('')}}`;
}
const bytes = (text: string) => Buffer.from(text, 'utf8').toString('latin1');
const chars = (text: string) => Buffer.from(text, 'latin1').toString('utf8');

describe('moving addresses to https', () => {
  it('finds every form and keeps how it is written', () => {
    for (const [before, after, form] of [
      ['href="http://fernhollow.example/a"', 'href="https://fernhollow.example/a"', 'http://host'],
      ["url('http://WWW.fernhollow.example/a')", "url('https://WWW.fernhollow.example/a')", 'http://www.host'],
      ['src="//fernhollow.example/a"', 'src="https://fernhollow.example/a"', '//host'],
      ['"u":"http:\\/\\/fernhollow.example\\/a"', '"u":"https:\\/\\/fernhollow.example\\/a"', 'escaped'],
      ['"http:\\\\\\/\\\\\\/fernhollow.example"', '"https:\\\\\\/\\\\\\/fernhollow.example"', 'escaped'],
      ['"http:\\u002F\\u002Ffernhollow.example"', '"https:\\u002F\\u002Ffernhollow.example"', 'escaped'],
      ['?u=http%3A%2F%2Fwww.fernhollow.example%2F', '?u=https%3A%2F%2Fwww.fernhollow.example%2F', 'percent-encoded'],
      ['http://fernhollow.example:80/a', 'https://fernhollow.example/a', 'http://host'],
      ['See http://fernhollow.example.', 'See https://fernhollow.example.', 'http://host'],
    ] as const) {
      expect(moved(before), before).to.equal(after);
      expect(
        finder.find(before, 'markup').map((m) => m.form),
        before,
      ).to.deep.equal([form]);
      expect(finder.find(after, 'markup'), after).to.deep.equal([]);
    }
  });

  it('leaves what is not the site’s', () => {
    for (const text of [
      'http://fernhollow.example.moss.example/',
      'http://notfernhollow.example/',
      'http://media.fernhollow.example/',
      'https://fernhollow.example/',
      'http://fernhollow.example-moss.example/',
      'http://moss.example/fernhollow.example',
      '// fernhollow.example is ours',
      'mailto:info@fernhollow.example',
    ])
      expect(finder.find(text, 'markup'), text).to.deep.equal([]);
  });

  it('refuses what would be wrong, and says why', () => {
    expect(refused('<html xmlns:fern="http://fernhollow.example/ns">')[0]).to.contain('XML');
    expect(refused('<x xsi:schemaLocation="http://fernhollow.example/ns a.xsd">')[0]).to.contain('XML');
    expect(refused('<!DOCTYPE fern SYSTEM "http://fernhollow.example/fern.dtd">')[0]).to.contain('document type');
    expect(refused('href="https://archive.example/web/2019/http://fernhollow.example/"')[0]).to.contain('another site');
    expect(refused('http://fernhollow.example:8080/')[0]).to.contain('8080');
    expect(refused('Hello\n> On Monday you wrote:\n> -- \n> Ann, http://fernhollow.example/', 'text')[0]).to.contain(
      'quoted mail',
    );
    expect(refused('Hi\n----- Original Message -----\nAnn\nhttp://fernhollow.example/', 'value')[0]).to.contain(
      'quoted mail',
    );
    expect(refused('<blockquote type="cite">http://fernhollow.example/', 'value')[0]).to.contain('quoted mail');
    expect(refused('<blockquote type="cite">a</blockquote>http://fernhollow.example/', 'value')).to.deep.equal([]);
    expect(refused('https://share.example/?u=http://fernhollow.example/')).to.deep.equal([]);
  });

  it('gives all hosts one where that is asked for', () => {
    const one = new MentionFinder({ hosts: HOSTS, toHost: 'www.fernhollow.example' });
    expect(moved('http://fernhollow.example/a //b "//fernhollow.example/c"', 'markup', one)).to.equal(
      'https://www.fernhollow.example/a //b "https://www.fernhollow.example/c"',
    );
  });

  const address = fc.constantFrom(
    'http://fernhollow.example/',
    'http://www.fernhollow.example/größe',
    'see http:\\/\\/fernhollow.example\\/x',
    'nothing here',
    'quotes " and \' and \\ and ;',
    '//fernhollow.example',
    'https://fernhollow.example/',
    'x'.repeat(9) + 'http://fernhollow.example',
  );
  const { value } = fc.letrec<{ value: Value }>((tie) => ({
    value: fc.oneof(
      { maxDepth: 4 },
      address,
      fc.integer({ min: 0, max: 999 }),
      fc.dictionary(fc.constantFrom('a', 'b', 'http://fernhollow.example', 'ü'), tie('value'), { maxKeys: 3 }),
      tie('value').map((v) => serialise(v)),
    ),
  }));

  it('keeps the lengths of serialised strings right, however deep they are nested', () => {
    fc.assert(
      fc.property(value, (v) => {
        const change = (x: Value): Value => {
          if (typeof x === 'number') return x;
          if (typeof x !== 'string')
            return Object.fromEntries(Object.entries(x).map(([k, y]) => [change(k) as string, change(y)]));
          const inner = /^(a:\d+:\{|s:\d+:"|i:\d+;)/.test(x);
          // A serialised value inside of a string is checked by its own lengths, below.
          return inner
            ? x
            : x
                .replace(/^\/\//, 'https://')
                .replace(/http:(\\*)\/(\\*)\/(www\.)?fernhollow/g, 'https:$1/$2/$3fernhollow');
        };
        fc.pre(!JSON.stringify(v).includes(':{s:') && !JSON.stringify(v).includes('s:'));
        expect(chars(moved(bytes(serialise(v)), 'value'))).to.equal(serialise(change(v)));
      }),
    );
    fc.assert(
      fc.property(value, (v) => {
        const after = moved(bytes(serialise(v)), 'value');
        expect(readAll(after), after).to.equal(after.length);
        expect(finder.find(after, 'value').filter((m) => m.replacement)).to.deep.equal([]);
      }),
    );
  });

  const dump = (text: string, dialect: SqlDialect) => {
    const { pieces } = scanSql(text, dialect, { copying: false }, true);
    return withChanges(text, rewriteSql(text, pieces, finder).changes);
  };
  const mysql = (v: string) => `'${v.replace(/[\\'"\n]/g, (c) => (c === '\n' ? '\\n' : '\\' + c))}'`;
  const standard = (v: string) => `'${v.replaceAll("'", "''")}'`;

  it('does in a dump what it does to the values in it, in both dialects', () => {
    fc.assert(
      fc.property(value, fc.constantFrom<SqlDialect>('backslash', 'standard'), (v, dialect) => {
        const quote = dialect === 'backslash' ? mysql : standard;
        const plain = bytes(serialise(v));
        const line = (x: string) => `-- it's a comment\nINSERT INTO t VALUES (1,${quote(x)},'it''s'),(2,NULL);\n`;
        expect(dump(line(plain), dialect)).to.equal(line(moved(plain, 'value')));
      }),
    );
  });

  it('reads a dump in any pieces as in one', () => {
    const text = `CREATE TABLE \`it's\` (a text);\nINSERT INTO t VALUES ('a\nb http://fernhollow.example/ \\'x'),("http://www.fernhollow.example");\n/*!40101 SET NAMES 'utf8' */;\n-- don't\nINSERT INTO t VALUES ('-- http://fernhollow.example');\n`;
    const whole = dump(text, 'backslash');
    expect(whole.match(/https:/g)).to.have.length(3);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 60 }), (size) => {
        let carry = '';
        let out = '';
        let state = { copying: false };
        for (let at = 0; at < text.length; at += size) {
          carry += text.slice(at, at + size);
          const scan = scanSql(carry, 'backslash', state, at + size >= text.length);
          state = scan.state;
          const piece = carry.slice(0, scan.upTo);
          out += withChanges(piece, rewriteSql(piece, scan.pieces, finder).changes);
          carry = carry.slice(scan.upTo);
        }
        expect(out).to.equal(whole);
      }),
    );
  });

  it('reads lines of COPY and tells dialects apart', () => {
    const text =
      "--\n-- PostgreSQL database dump\n--\nCOPY public.t (a, b) FROM stdin;\n1\tit's http://fernhollow.example/\\n2\n\\.\nSELECT 'http://fernhollow.example';\n";
    expect(dialectOf(text)).to.equal('standard');
    expect(dump(text, 'standard')).to.equal(text.replaceAll('http:', 'https:'));
  });
});

/** Walks a serialised value and returns where it ends; throws where a length is wrong. */
function readAll(text: string, at = 0): number {
  const m = /^(?:i:\d+;|s:(\d+):"|a:(\d+):\{)/.exec(text.slice(at));
  if (!m) throw new Error(`no value at ${at}: ${text.slice(at, at + 40)}`);
  let next = at + m[0].length;
  if (m[1] !== undefined) {
    next += Number(m[1]);
    if (!text.startsWith('";', next)) throw new Error(`wrong length at ${at}: ${text.slice(at, at + 60)}`);
    const inner = text.slice(at + m[0].length, next);
    if (/^(a:\d+:\{|s:\d+:"|i:\d+;$)/.test(inner)) readAll(inner);
    return next + 2;
  }
  if (m[2] !== undefined) {
    for (let i = 0; i < Number(m[2]) * 2; i++) next = readAll(text, next);
    if (text[next] !== '}') throw new Error(`no end at ${next}`);
    return next + 1;
  }
  return next;
}
