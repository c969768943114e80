import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import fc from 'fast-check';
import { applyEdits, type Edit } from '../../../src/core/fixes/edits';
import { filePathOf } from '../../../src/core/handover/filePath';
import { patchOf } from '../../../src/core/handover/patch';
import { tempFolder } from '../../fixtures/temp';

const edit = (start: number, end: number, text: string): Edit => ({
  url: 'https://www.fernhollow.example/',
  start,
  end,
  text,
});
const at = (source: string, what: string, text: string): Edit => {
  const start = source.indexOf(what);
  return edit(start, start + what.length, text);
};

describe('core/handover/patch', () => {
  it('shows three lines around a change', () => {
    const source = 'a\nb\nc\nd\ne\nf\ng\nh\n';
    expect(patchOf('x/index.html', source, [at(source, 'e', 'E')])).to.equal(
      '--- a/x/index.html\n+++ b/x/index.html\n@@ -2,7 +2,7 @@\n b\n c\n d\n-e\n+E\n f\n g\n h\n',
    );
  });

  it('joins changes that are near, counts lines that come in, and says where no line ends', () => {
    const source = 'a\nb\nc\nd\ne\nf\ng\nh\ni\nj\nk\nl\nm';
    const out = patchOf('x', source, [at(source, 'a', 'a1\na2'), at(source, 'c', 'C'), at(source, 'm', 'M')]);
    expect(out).to.equal(
      '--- a/x\n+++ b/x\n@@ -1,6 +1,7 @@\n-a\n+a1\n+a2\n b\n-c\n+C\n d\n e\n f\n' +
        '@@ -10,4 +11,4 @@\n j\n k\n l\n-m\n\\ No newline at end of file\n+M\n\\ No newline at end of file\n',
    );
  });

  it('is empty where nothing changes', () => {
    expect(patchOf('x', 'a\n', [])).to.equal('');
    expect(patchOf('x', 'a\n', [edit(0, 1, 'a')])).to.equal('');
  });

  it('is taken by git for any text and edits, and gives what the edits give', () => {
    const temp = tempFolder('patch');
    const file = path.join(temp.folder, 'f.txt');
    const line = fc.constantFrom('<p>ferns</p>', '', 'b { }', '\r', 'über', '-x', '+x', '@@');
    const text = fc.array(line, { minLength: 1, maxLength: 30 }).map((lines) => lines.join('\n'));
    const place = fc.tuple(fc.nat(200), fc.nat(20), fc.constantFrom('', 'new', 'two\nlines', '\n', 'end\r\n'));
    fc.assert(
      fc.property(text, fc.array(place, { minLength: 1, maxLength: 5 }), (source, places) => {
        const edits = places.map(([start, length, put]) => {
          const from = Math.min(start, source.length);
          return edit(from, Math.min(from + length, source.length), put);
        });
        const after = applyEdits(source, edits);
        const patch = patchOf('f.txt', source, edits);
        if (source === '' || after === '') return;
        fs.writeFileSync(file, source);
        if (patch !== '')
          execFileSync('git', ['apply', '--whitespace=nowarn', '-'], { cwd: temp.folder, input: patch });
        expect(fs.readFileSync(file, 'utf8')).to.equal(after);
      }),
      { numRuns: 25 },
    );
    temp.remove();
  });
});

describe('core/handover/filePath', () => {
  it('names files by host and path', () => {
    expect(filePathOf('https://www.fernhollow.example/')).to.equal('www.fernhollow.example/index.html');
    expect(filePathOf('https://www.fernhollow.example/visit')).to.equal('www.fernhollow.example/visit.html');
    expect(filePathOf('https://www.fernhollow.example/visit/a.css')).to.equal('www.fernhollow.example/visit/a.css');
    expect(filePathOf('https://www.fernhollow.example/a/b.css?v=2')).to.match(
      /^www\.fernhollow\.example\/a\/b\.\w+\.css$/,
    );
  });

  it('never leads out of the folder, and differs where queries differ', () => {
    const parts = fc.array(fc.constantFrom('..', '.', '%2e%2e', 'a', '%2F', 'con', 'a:b', 'x.'), { maxLength: 6 });
    fc.assert(
      fc.property(parts, (all) => {
        const made = filePathOf(`https://www.fernhollow.example/${all.join('/')}`).split('/');
        for (const part of made) expect(part).not.to.match(/^\.*$|[<>:"\\|?*]|[. ]$/);
      }),
    );
    const page = 'https://www.fernhollow.example/list';
    expect(filePathOf(`${page}?a=1`)).not.to.equal(filePathOf(`${page}?a=2`));
  });
});
