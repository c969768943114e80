import { expect } from 'chai';
import { findHero, type Hero } from '../../../src/core/load/hero';
import { capture, har, PAGE, type MadeLoad } from '../../fixtures/har';

/** A file that begins as a PNG of a size does (PNG, 11.2.2), with as many bytes as asked for. */
function png(width: number, height: number, bytes = 60_000): Buffer {
  const file = Buffer.alloc(bytes, 1);
  file.write('\x89PNG\r\n\x1a\n\0\0\0\rIHDR', 0, 'latin1');
  file.writeUInt32BE(width, 16);
  file.writeUInt32BE(height, 20);
  return file;
}

const load = (name: string, body: string | Buffer): MadeLoad => ({ url: PAGE + name, body, start: 40 });

/** The hero guessed for a phone of 400 x 860: no recorder saw this page. */
function guess(html: string, loads: readonly MadeLoad[] = []): Hero & { readonly name: string } {
  const hero = findHero(capture(har([{ url: PAGE, body: `<!doctype html>${html}` }, ...loads], {})).page);
  expect(hero.seen).to.equal(false);
  return { ...hero, name: hero.url?.slice(PAGE.length) ?? hero.tag ?? '' };
}

const A = load('a.png', png(800, 600));
const B = load('b.png', png(800, 600));

describe('core/load/heroGuess: sizes as declared', () => {
  it('by attributes, which style may overrule', () => {
    const two = '<img src=/a.png width=300 height=200><img src=/b.png width=320 height=240>';
    expect(guess(`<body>${two}`, [A, B]).name).to.equal('b.png');
    expect(guess(`<style>img[src*=b]{width:90px;height:60px}</style><body>${two}`, [A, B]).name).to.equal('a.png');
  });

  it('by the file where nothing is declared, at most as wide as max-width lets it', () => {
    const small = load('s.png', png(120, 90));
    expect(guess('<body><img src=/s.png><img src=/a.png>', [small, A]).name).to.equal('a.png');
    const capped = '<style>img{max-width:20px}</style><body><img src=/a.png><h1>A garden of many old trees</h1>';
    expect(guess(capped, [A])).to.include({ kind: 'text', name: 'h1' });
  });

  it('by aspect-ratio and percentages of the room', () => {
    const html =
      '<style>.w{width:50%;aspect-ratio:1/3}.x{width:100%;aspect-ratio:5}</style><body><div><img class=x src=/a.png></div><div><img class=w src=/b.png></div>';
    expect(guess(html, [A, B]).name).to.equal('b.png');
  });

  it('by srcset and sizes, at the density of the screen', () => {
    const narrow = '<img srcset="/a.png 1000w" sizes="100px" src=/a.png><img src=/b.png width=200 height=200>';
    expect(guess(`<body>${narrow}`, [A, B]).name).to.equal('b.png');
    const wide = narrow.replace('100px', '100vw');
    expect(guess(`<body>${wide}`, [A, B]).name).to.equal('a.png');
  });

  it('in columns of a grid or a row of boxes, each as wide as its share', () => {
    const cells = '<div class=g><img src=/a.png style="width:100%"><p>x</p><p>y</p><p>z</p></div>';
    const below = '<img src=/b.png width=220 height=165>';
    const grid = (css: string) => guess(`<style>.g{${css}}</style><body>${cells}${below}`, [A, B]).name;
    expect(grid('display:block')).to.equal('a.png');
    expect(grid('display:grid;grid-template-columns:repeat(4,1fr)')).to.equal('b.png');
    expect(grid('display:flex')).to.equal('b.png');
  });
});

describe('core/load/heroGuess: what counts', () => {
  it('only what lies in the first screen', () => {
    const html = '<style>.top{height:900px}</style><body><h1>Hello</h1><div class=top></div><img src=/a.png width=300>';
    expect(guess(html, [A])).to.include({ kind: 'text', name: 'h1' });
  });

  it('nothing that is hidden, inert or a dialog that is closed', () => {
    const words = '<p>Some words of text</p>';
    for (const html of [
      `<div hidden><img src=/a.png></div>`,
      `<div style="display:none"><img src=/a.png></div>`,
      `<dialog><img src=/a.png></dialog>`,
    ])
      expect(guess(`<body>${html}${words}`, [A]).name, html).to.equal('p');
    for (const tag of ['template', 'noscript'])
      expect(guess(`<body><${tag}><img src=/a.png></${tag}>${words}`).name, tag).to.equal('p');
    expect(guess(`<body><dialog open><img src=/a.png></dialog>${words}`, [A]).name).to.equal('a.png');
  });

  it('no file that failed or is no picture', () => {
    const missing: MadeLoad = { url: PAGE + 'a.png', status: 404, body: 'gone', start: 40 };
    expect(guess('<body><img src=/a.png width=390 height=700><p>Some words</p>', [missing]).name).to.equal('p');
  });

  it('no picture with next to no detail: a blank placeholder', () => {
    const blank = load('blank.png', png(800, 600, 300));
    expect(guess('<body><img src=/blank.png width=390 height=700><img src=/a.png>', [blank, A]).name).to.equal('a.png');
  });

  it('no picture as large as the screen: it is its ground', () => {
    const ground = '<style>body{margin:0}.g{height:860px;background:url(/a.png)}</style>';
    const page = `${ground}<body><div class=g></div>`;
    expect(guess(`${page}<h1>x</h1>`, [A]).kind).to.equal('text');
    expect(guess(page.replace('860px', '400px'), [A])).to.include({ kind: 'background', name: 'a.png' });
  });

  it('what is drawn larger than its file counts at its own size', () => {
    const tiny = load('t.png', png(60, 60));
    const html = '<body><img src=/t.png width=390 height=390><img src=/b.png width=200 height=150>';
    expect(guess(html, [tiny, B]).name).to.equal('b.png');
  });

  it('the file of a data attribute rather than the placeholder in its place', () => {
    const dot = load('dot.png', png(1, 1, 80));
    const hero = guess('<body><img src=/dot.png data-src=/a.png width=390 height=300><p>x</p>', [dot, A]);
    expect(hero).to.include({ kind: 'image', name: 'a.png' });
    expect(hero.element?.tag).to.equal('img');
  });

  it('posters of films, pictures inside drawings, backgrounds from custom properties', () => {
    expect(guess('<body><video poster=/a.png width=390 height=220></video>', [A]).name).to.equal('a.png');
    const drawing = '<svg viewBox="0 0 390 220"><image href="/a.png" width="390" height="220"></image></svg>';
    expect(guess(`<body>${drawing}<p>x</p>`, [A]).name).to.equal('a.png');
    const custom = '<style>:root{--g:url(/a.png)}div{height:200px;background-image:var(--g)}</style>';
    expect(guess(`<html>${custom}<body><div></div>`, [A])).to.include({ kind: 'background', name: 'a.png' });
  });

  it('a picture that only a script asked for, at its own size', () => {
    const js = load('app.js', 'build()');
    expect(guess('<body><div id=app></div><script src=/app.js></script>', [js, A]).name).to.equal('a.png');
  });

  it('the longest text where there is no picture, by the lines it takes', () => {
    const long = 'words of a garden '.repeat(30);
    expect(guess(`<body><h1>Short</h1><p>${long}</p>`).name).to.equal('p');
    expect(guess(`<body><h1 style="font-size:60px">Fernhollow in autumn</h1><p>few words</p>`).name).to.equal('h1');
  });

  it('text at all where there is nothing', () => {
    expect(guess('')).to.include({ kind: 'text', seen: false });
    expect(guess('<body></body>').element).to.equal(undefined);
  });

  it('on a phone that shrinks a page wider than its screen, all of the page', () => {
    const html =
      '<style>.w{width:1600px}</style><body><div class=w><img src=/a.png width=1600 height=1200></div><p>x</p>';
    const big = load('a.png', png(1600, 1200, 400_000));
    expect(guess(html, [big]).name).to.equal('a.png');
  });

  it('a picture that does not fit into its line, on the next one', () => {
    const tall = load('tall.png', png(390, 800, 200_000));
    const html = '<body><img src=/a.png width=300 height=560><img src=/tall.png width=390 height=800>';
    // Beside the first it would be largest; below it only its top is in the first screen.
    expect(guess(html, [A, tall]).name).to.equal('a.png');
  });

  it('survives deep and odd markup', () => {
    const deep = '<div>'.repeat(3000) + '<p>At last</p>';
    expect(guess(`<body>${deep}`).kind).to.equal('text');
    expect(guess('<body><img><img src=""><img src=/a.png width=x height=-3>', [A]).name).to.equal('a.png');
  });
});
