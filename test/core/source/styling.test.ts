import { expect } from 'chai';
import { hiddenAtFirst } from '../../../src/core/source/hidden';
import { declaredFor, declaredValue, lineage } from '../../../src/core/source/styling';
import { capture, har, PAGE, type MadeLoad } from '../../fixtures/har';

function pageOf(html: string, sheets: Readonly<Record<string, string>> = {}) {
  const loads: MadeLoad[] = Object.entries(sheets).map(([name, body], i) => ({
    url: PAGE + name,
    body,
    start: 30 + i,
  }));
  return capture(har([{ url: PAGE, body: `<!doctype html>${html}` }, ...loads], {})).page;
}
function element(page: ReturnType<typeof pageOf>, tag: string) {
  const found = page.document?.elements.find((e) => e.tag === tag);
  if (!found) throw new Error(`no ${tag}`);
  return found;
}
/** The value declared for the first element with a tag. */
const declared = (html: string, property: string, tag = 'p', sheets = {}) => {
  const page = pageOf(html, sheets);
  return declaredValue(page, element(page, tag), property)?.value;
};

describe('core/source/styling (CSS Cascade 5, 6)', () => {
  it('goes by order where nothing else decides', () => {
    expect(declared('<style>p{color:red}p{color:blue}</style><p>x', 'color')).to.equal('blue');
  });

  it('goes by specificity before order', () => {
    const rules = '<style>#a{color:red}.b{color:green}p{color:blue}</style>';
    expect(declared(`${rules}<p id=a class=b>x`, 'color')).to.equal('red');
    expect(declared(`${rules}<p class=b>x`, 'color')).to.equal('green');
    expect(declared(`${rules}<p>x`, 'color')).to.equal('blue');
  });

  it('puts a style attribute above rules, and important ones above that', () => {
    expect(declared('<style>#a{color:red}</style><p id=a style="color:blue">x', 'color')).to.equal('blue');
    expect(declared('<style>p{color:red !important}</style><p style="color:blue">x', 'color')).to.equal('red');
    expect(declared('<style>p{color:red !important}</style><p style="color:blue !important">x', 'color')).to.equal(
      'blue',
    );
    expect(declared('<style>p{color:red !important;color:blue}</style><p>x', 'color')).to.equal('red');
  });

  it('says which rule and which sheet a value comes from', () => {
    const page = pageOf('<link rel=stylesheet href=/s.css><p>x', { 's.css': '\np { color: red }' });
    const by = declaredValue(page, element(page, 'p'), 'color')?.by;
    expect(by?.sheet.url).to.equal(`${PAGE}s.css`);
    expect(by?.rule.selectorText).to.equal('p');
    const inline = pageOf('<p style="color:red">x');
    expect(declaredValue(inline, element(inline, 'p'), 'color')?.by).to.equal(undefined);
  });

  it('counts only what applies on the screen that recorded: media of rules, links and elements', () => {
    const wide = '@media (min-width: 900px){p{color:red}}';
    expect(declared(`<style>p{color:blue}${wide}</style><p>x`, 'color')).to.equal('blue');
    expect(declared('<style media=print>p{color:red}</style><p>x', 'color')).to.equal(undefined);
    const sheets = { 's.css': 'p{color:red}' };
    const linked = (attributes: string) =>
      declared(`<link rel=stylesheet ${attributes} href=/s.css><p>x`, 'color', 'p', sheets);
    expect(linked('')).to.equal('red');
    expect(linked('media=print')).to.equal(undefined);
    expect(linked('disabled')).to.equal(undefined);
    // It is switched on when it has come.
    expect(linked(`media=print onload="this.media='all'"`)).to.equal('red');
  });

  it('leaves out states and parts: nobody has touched the page', () => {
    expect(declared('<style>p:hover{color:red}p::before{color:blue}</style><p>x', 'color')).to.equal(undefined);
  });

  it('does not inherit, but knows what an element stands in', () => {
    const page = pageOf('<html><style>body{color:red}</style><body><div><p>x</p></div></body></html>');
    const p = element(page, 'p');
    expect(declaredFor(page, p).has('color')).to.equal(false);
    expect(lineage(page, p).map((e) => e.tag)).to.deep.equal(['p', 'div', 'body', 'html']);
  });
});

describe('core/source/hidden', () => {
  const why = (html: string, tag = 'img') => {
    const page = pageOf(html);
    return hiddenAtFirst(page, element(page, tag));
  };

  it('finds no cause where there is none', () => {
    expect(why('<style>img{opacity:.5}</style><img src=a.jpg>')).to.equal(undefined);
  });

  it('finds opacity and visibility, on the element or on what it stands in', () => {
    expect(why('<style>img{opacity:0}</style><img src=a.jpg>')).to.include({ what: 'opacity: 0 on img' });
    expect(why('<div style="visibility:hidden"><img src=a.jpg></div>')).to.include({
      what: 'visibility: hidden on div',
      animated: false,
    });
    expect(why('<style>.x{opacity:0}</style><div class=x><img src=a.jpg></div>')?.by?.rule.selectorText).to.equal('.x');
  });

  it('tells what an animation shows from what stays hidden', () => {
    const rise = '@keyframes rise{from{opacity:0}to{opacity:1}}@keyframes slide{from{left:0}to{left:9px}}';
    const animated = (css: string) => why(`<style>${rise}img{${css}}</style><img src=a.jpg>`);
    expect(animated('animation: rise 1s')).to.include({ what: 'the animation rise begins invisible', animated: true });
    expect(animated('animation-name: rise')).to.include({ animated: true });
    expect(animated('opacity:0; animation: rise 1s')).to.include({ what: 'opacity: 0 on img', animated: true });
    expect(animated('animation: slide 1s')).to.equal(undefined);
    expect(animated('animation: unknown 1s')).to.equal(undefined);
  });
});
