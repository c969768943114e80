import { expect } from 'chai';
import { hiddenAtFirst, undrawnAround } from '../../../src/core/source/hidden';
import { auditOf, PAGE } from '../../fixtures/har';

/** The element that keeps the one with id `x` from being drawn, by its tag; what an animation does, apart. */
function around(body: string, css = '') {
  const { page } = auditOf(
    `<!doctype html><html><head><link rel="stylesheet" href="/s.css"></head><body>${body}</body></html>`,
    [{ url: `${PAGE}s.css`, body: css, start: 40 }],
  );
  const element = page.document?.elements.find((e) => e.attributes.get('id') === 'x');
  if (!element) throw new Error('No element x.');
  return { undrawn: undrawnAround(page, element)?.tag, hidden: hiddenAtFirst(page, element)?.what };
}

describe('core/source/hidden: what styles keep from being drawn until a script changes something', () => {
  it('by display, on itself or around it, with the outermost element', () => {
    expect(around('<p id=x>a</p>', 'p{display:none}').undrawn).to.equal('p');
    expect(around('<main><p id=x>a</p></main>', 'main{display:none}').undrawn).to.equal('main');
    expect(around('<main><p id=x>a</p></main>', 'main,p{display:none}').undrawn).to.equal('main');
    expect(around('<main hidden><p id=x>a</p></main>').undrawn).to.equal('main');
    expect(around('<dialog><p id=x>a</p></dialog>').undrawn).to.equal('dialog');
    expect(around('<section class=slide><p id=x>a</p></section>', '.slide:not(.on){display:none}').undrawn).to.equal(
      'section',
    );
  });

  it('by visibility, which something inside may take back (CSS Display 4, 4)', () => {
    expect(around('<main><p id=x>a</p></main>', 'main{visibility:hidden}').undrawn).to.equal('p');
    expect(around('<main><p id=x>a</p></main>', 'main{visibility:hidden} p{visibility:visible}').undrawn).to.equal(
      undefined,
    );
  });

  it('by opacity, but not where an animation shows it', () => {
    const fades = 'main{opacity:0;animation:in 1s} @keyframes in{from{opacity:0} to{opacity:1}}';
    expect(around('<main><p id=x>a</p></main>', 'main{opacity:0}').undrawn).to.equal('main');
    expect(around('<main><p id=x>a</p></main>', fades).undrawn).to.equal(undefined);
    expect(around('<main><p id=x>a</p></main>', fades).hidden).to.contain('opacity: 0');
  });

  it('not what is merely said of other elements, or taken back', () => {
    expect(around('<p id=x>a</p>', 'main{display:none}').undrawn).to.equal(undefined);
    expect(around('<p id=x hidden>a</p>', '[hidden]{display:block}').undrawn).to.equal(undefined);
    expect(around('<dialog open><p id=x>a</p></dialog>').undrawn).to.equal(undefined);
  });
});
