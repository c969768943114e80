import { expect } from 'chai';
import fc from 'fast-check';
import {
  CERTIFICATE_FAULTS,
  judgeCertificate,
  judgeHsts,
  MIN_HSTS_S,
  type SeenCertificate,
} from '../../../src/core/site/certificates';

const AT = new Date('2026-11-30T12:00:00Z');
const GOOD: SeenCertificate = {
  host: 'www.fernhollow.example',
  names: ['fernhollow.example', 'www.fernhollow.example'],
  issuer: 'Made-up Root',
  validFrom: '2026-10-01T00:00:00Z',
  validTo: '2027-03-01T00:00:00Z',
  chain: 'complete',
  key: 'EC P-256',
  keyBits: 256,
  keyType: 'ec',
  signature: 'ecdsa-with-SHA256',
  oldestTls: 'TLS 1.2',
  newestTls: 'TLS 1.3',
  http2: true,
};
const faults = (more: Partial<SeenCertificate>) => judgeCertificate({ ...GOOD, ...more }, AT).faults;

describe('core/site/certificates', () => {
  it('finds nothing wrong with a good one, and says what it covers', () => {
    expect(judgeCertificate(GOOD, AT)).to.deep.include({
      faults: [],
      covers: { bare: true, www: true },
      daysLeft: 90,
    });
    const wild = judgeCertificate({ ...GOOD, names: ['*.fernhollow.example'] }, AT);
    // A star stands for one label, never for none (RFC 9525, 6.3).
    expect(wild.covers).to.deep.equal({ bare: false, www: true });
    expect(wild.faults).to.deep.equal([]);
  });

  for (const [fault, more] of [
    ['expired', { validTo: '2026-11-30T11:59:59Z' }],
    ['not yet valid', { validFrom: '2026-12-01T00:00:00Z' }],
    ['wrong name', { names: ['shop.fernhollow.example'] }],
    ['wrong name', { host: 'a.b.fernhollow.example', names: ['*.fernhollow.example'] }],
    ['self-signed', { chain: 'self-signed' }],
    ['incomplete chain', { chain: 'incomplete' }],
    ['weak key', { keyType: 'rsa', keyBits: 1024 }],
    ['weak key', { keyType: 'ec', keyBits: 224 }],
    ['weak key', { keyType: 'dsa', keyBits: 3072 }],
    ['weak signature', { signature: 'sha1WithRSAEncryption' }],
    ['weak signature', { signature: 'md5WithRSAEncryption' }],
    ['old protocol', { oldestTls: 'TLS 1.0' }],
    ['old protocol', { oldestTls: 'SSL 3.0' }],
    ['ends soon', { validTo: '2026-12-20T00:00:00Z' }],
  ] as const)
    it(`calls ${JSON.stringify(more)} ${fault}`, () => {
      expect(faults(more)).to.deep.equal([fault]);
    });

  it('does not take strong ones for weak', () => {
    expect(faults({ keyType: 'rsa', keyBits: 2048, signature: 'sha256WithRSAEncryption' })).to.deep.equal([]);
    expect(faults({ signature: 'sha512WithRSAEncryption', oldestTls: 'TLS 1.3' })).to.deep.equal([]);
    // The handshake did not tell the size.
    expect(faults({ keyType: 'ed25519', keyBits: 0 })).to.deep.equal([]);
  });

  it('agrees with the calendar on any day', () => {
    const day = 86_400_000;
    fc.assert(
      fc.property(fc.integer({ min: -400, max: 400 }), fc.integer({ min: 1, max: 800 }), (from, length) => {
        const validFrom = new Date(AT.getTime() + from * day);
        const validTo = new Date(validFrom.getTime() + length * day);
        const found = judgeCertificate(
          { ...GOOD, validFrom: validFrom.toISOString(), validTo: validTo.toISOString() },
          AT,
        );
        expect(found.daysLeft).to.equal(from + length);
        expect(found.faults.includes('expired')).to.equal(from + length < 0);
        expect(found.faults.includes('not yet valid')).to.equal(from > 0);
        expect(found.faults.includes('expired') && found.faults.includes('ends soon')).to.equal(false);
        expect(CERTIFICATE_FAULTS).to.include.members([...found.faults]);
      }),
    );
  });
});

describe('core/site/certificates: Strict-Transport-Security', () => {
  const hsts = (header?: string, host = 'fernhollow.example') => judgeHsts(host, header);

  it('reads what RFC 6797, 6.1 allows', () => {
    expect(hsts('max-age=31536000; includeSubDomains; preload')).to.deep.include({
      maxAge: 31_536_000,
      includeSubDomains: true,
      preload: true,
      faults: [],
    });
    // Names are case-insensitive, values may be quoted, order and unknown directives do not matter.
    expect(hsts('INCLUDESUBDOMAINS; other=1 ; Max-Age = "15552000"')).to.deep.include({
      maxAge: MIN_HSTS_S,
      includeSubDomains: true,
      faults: [],
    });
  });

  it('says what is missing', () => {
    expect(hsts(undefined)).to.deep.include({ header: null, maxAge: null });
    expect(hsts('includeSubDomains').faults.join()).to.contain('no max-age');
    expect(hsts('max-age=0').faults.join()).to.contain('switches HSTS off');
    expect(hsts('max-age=86400; includeSubDomains').faults).to.deep.equal([
      'max-age is only 1 day: set half a year or more.',
    ]);
    expect(hsts('max-age=31536000').faults.join()).to.contain('includeSubDomains is missing');
    expect(hsts('max-age=15552000; includeSubDomains; preload').faults.join()).to.contain('one year');
    // A host deep inside a domain has no subdomains to speak of.
    expect(hsts('max-age=31536000', 'a.shop.fernhollow.example').faults).to.deep.equal([]);
  });
});
