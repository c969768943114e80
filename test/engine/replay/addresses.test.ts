import { expect } from 'chai';
import { browserSwitches } from '../../../src/engine/record/chromium';

describe('engine/record/chromium', () => {
  const rules = (...args: Parameters<typeof browserSwitches>) =>
    browserSwitches(...args).find((s) => s.startsWith('--host-resolver-rules='));

  it('maps a page of this machine too, where a replay answers for it, and nothing else is resolved', () => {
    expect(rules(['127.0.0.1:8085=127.77.0.1:4000'], false, { mappedOnly: true })).to.equal(
      '--host-resolver-rules=MAP 127.0.0.1:8085 127.77.0.1:4000,MAP * ~NOTFOUND',
    );
  });

  it('maps hosts that are IPv6 addresses, in brackets as in addresses', () => {
    expect(rules(['[2001:db8::7]:443=127.77.0.2:4001', 'a.example=[::1]'])).to.equal(
      '--host-resolver-rules=MAP [2001:db8::7]:443 127.77.0.2:4001,MAP a.example [::1]',
    );
  });

  it('leaves this machine reachable where a filtering proxy stands on it', () => {
    expect(rules([], false, { proxyPort: 4100 })).to.contain('EXCLUDE 127.0.0.1');
  });
});
