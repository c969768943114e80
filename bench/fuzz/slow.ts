import { bodiesInMemory } from '../../src/core/capture/capture';
import { readCaptures } from '../../src/core/capture/readers';
import { auditPage } from '../../src/core/plan/audit';
import { readPage } from '../../src/core/source/page';
import { har, PAGE } from '../../test/fixtures/har';

const start = '<!doctype html><title>Costly</title>';
const many = (n: number, text: (i: number) => string) => Array.from({ length: n }, (_, i) => text(i)).join('');
const css = (text: string, body = '<p>x') => [
  { url: PAGE, body: `${start}<link rel=stylesheet href=a.css>${body}` },
  { url: `${PAGE}a.css`, body: text },
];

/** Captures that cost a reader as much as they can. */
const COSTLY: readonly { readonly name: string; readonly loads: () => Parameters<typeof har>[0] }[] = [
  {
    name: '30 MB of flat markup',
    loads: () => [{ url: PAGE, body: start + '<p>hello <b>x</b> <img src="/a.png">'.repeat(800_000) }],
  },
  { name: 'nesting 600,000 deep', loads: () => [{ url: PAGE, body: start + '<div>'.repeat(600_000) }] },
  {
    name: '100,000 links with attributes',
    loads: () => [
      {
        url: PAGE,
        body: start + many(100_000, (i) => `<a href="http://b.example/${i}" style="color:red" onclick="x()">`),
      },
    ],
  },
  {
    name: '60,000 inline scripts and styles',
    loads: () => [
      {
        url: PAGE,
        body:
          start +
          many(60_000, (i) => `<script>var t${i}="http://b.example/?t=${i}"</script><style>.a${i}{color:red}</style>`),
      },
    ],
  },
  {
    name: '20,000 costly selectors on 15,000 elements',
    loads: () =>
      css(
        many(20_000, (i) => `div:has(.b:not(.x${i})) ~ .a:nth-child(${i % 7}n+1) > *:is(p,span) + .c${i}{color:red}\n`),
        '<div class=a><p class=b><span>x</span></p></div>'.repeat(5000),
      ),
  },
  { name: '150,000 rules with pictures', loads: () => css('.a{color:red;background:url(x.png)}'.repeat(150_000)) },
  {
    name: '6 MB script full of http addresses',
    loads: () => [
      { url: PAGE, body: `${start}<script src=a.js></script>` },
      { url: `${PAGE}a.js`, body: 'function f(){return "http://x.example/a.png"}\n'.repeat(120_000) },
    ],
  },
];

/** Examines each: name, MB, seconds, seconds a MB. */
export function measureCostly(): (string | number)[][] {
  return COSTLY.map(({ name, loads }) => {
    const bytes = Buffer.from(JSON.stringify(har(loads())));
    const began = performance.now();
    for (const { capture, bodies } of readCaptures(bytes, 'costly.har'))
      auditPage(readPage(capture, bodiesInMemory(bodies)));
    const seconds = (performance.now() - began) / 1000;
    const mb = bytes.length / 1e6;
    return [name, mb.toFixed(1), seconds.toFixed(1), (seconds / mb).toFixed(2)];
  });
}
