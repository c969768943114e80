import { expect } from 'chai';
import { isPrivateAddress } from '../../src/engine/net/privateAddress';

describe('engine/net/privateAddress (RFC 6890)', () => {
  const inside = [
    '127.0.0.1',
    '10.1.2.3',
    '172.16.0.1',
    '192.168.1.1',
    '169.254.1.1',
    '100.64.0.1',
    '0.0.0.0',
    '224.0.0.1',
    '198.18.0.1',
    '255.255.255.255',
    '::1',
    '::',
    'fe80::1',
    'fc00::1',
    'ff02::1',
    '::ffff:127.0.0.1',
    '::ffff:10.0.0.1',
    '::ffff:7f00:1',
    '[::ffff:127.0.0.1]',
    '64:ff9b::7f00:1',
    '2002:7f00:1::1',
    '2001::1',
    '2001:db8::1',
    'fe80::1%eth0',
    'nonsense',
  ];
  const outside = [
    '1.1.1.1',
    '172.32.0.1',
    '11.0.0.1',
    '8.8.8.8',
    '2606:4700::1111',
    '::ffff:8.8.8.8',
    '64:ff9b::808:808',
    '2002:808:808::1',
  ];
  for (const a of inside) it(`${a} is private`, () => expect(isPrivateAddress(a)).to.equal(true));
  for (const a of outside) it(`${a} is public`, () => expect(isPrivateAddress(a)).to.equal(false));
});
