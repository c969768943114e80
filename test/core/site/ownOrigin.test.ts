import { expect } from 'chai';
import fc from 'fast-check';
import { ownOrigins } from '../../../src/core/site/ownOrigin';

describe('core/site/ownOrigin', () => {
  for (const [given, yes, no] of [
    [
      'https://www.fernhollow.example/visit/',
      ['https://www.fernhollow.example/', 'https://fernhollow.example/kit.js'],
      [
        'http://www.fernhollow.example/',
        'https://media.fernhollow.example/',
        'https://fernhollow.example:8443/',
        'https://fernhollow.example.evil.example/',
        'https://www.fernhollow.example@evil.example/',
      ],
    ],
    [
      'http://fernhollow.example/',
      ['http://www.fernhollow.example/', 'https://fernhollow.example/'],
      ['http://fernhollow.example:8080/', 'https://fernhollow.example:8443/'],
    ],
    [
      'http://127.0.0.1:8080/',
      ['http://127.0.0.1:8080/a'],
      ['http://127.0.0.1/', 'https://127.0.0.1:8080/', 'https://127.0.0.1/', 'http://127.0.0.2:8080/'],
    ],
  ] as const)
    it(`sends headers and passwords of ${given} there alone`, () => {
      const own = ownOrigins([given]);
      for (const url of yes) expect(own(url), url).to.equal(true);
      for (const url of [...no, 'data:text/plain,x', 'file:///etc/hosts', 'wss://fernhollow.example/', '', 'not one'])
        expect(own(url), url).to.equal(false);
    });

  it('never goes from https to http, nor to a host that was not given', () => {
    const host = fc.constantFrom('fernhollow.example', 'www.fernhollow.example', 'media.fernhollow.example');
    const address = fc
      .tuple(fc.constantFrom('http', 'https'), host, fc.constantFrom('', ':8080'), fc.webPath())
      .map(([scheme, name, port, path]) => `${scheme}://${name}${port}${path}`);
    fc.assert(
      fc.property(fc.array(address, { minLength: 1, maxLength: 3 }), address, (given, url) => {
        if (!ownOrigins(given)(url)) return;
        const bare = (text: string) => new URL(text).hostname.replace(/^www\./, '');
        const same = given.filter((g) => bare(g) === bare(url));
        expect(same).not.to.deep.equal([]);
        if (url.startsWith('http:')) expect(same.some((g) => g.startsWith('http:'))).to.equal(true);
      }),
    );
  });
});
