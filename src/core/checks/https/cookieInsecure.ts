import { sameSite } from '../../capture/site';
import { hostOf, isLoopbackHost } from '../../capture/url';
import { finding, type Check } from '../finding';

/** Cookies that would travel over http too. */
export const cookieInsecure: Check = {
  id: 'cookie-insecure',
  concern: 'https',
  question: 'Are cookies limited to https?',
  examines: 'Attributes of every Set-Cookie in the load record; values are removed at import.',
  cannotSee: 'Cookies that scripts set; cookies set on pages that were not captured.',
  fixedWhen: 'The cookie is set with Secure.',
  harms: ['exposed', 'broken', 'tidy'],
  standard: 'RFC 6265, 4.1.2.5; cookies with SameSite=None: RFC 6265bis, 4.1.2.7',
  change: 'Add Secure (and the right SameSite) where the server sets this cookie.',
  groupedBy: 'host',
  examine(subject) {
    const { capture } = subject.page;
    const done = new Set<string>();
    return capture.loads.flatMap((load) => {
      const host = hostOf(load.url);
      if (isLoopbackHost(host)) return [];
      return load.responseHeaders
        .filter((h) => h.name.toLowerCase() === 'set-cookie')
        .flatMap(({ value }) => value.split('\n'))
        .flatMap((line) => {
          const name = /^([^=;]+)=/.exec(line)?.[1]?.trim();
          if (!name || /;\s*secure\s*(;|$)/i.test(line) || done.has(`${host} ${name}`)) return [];
          done.add(`${host} ${name}`);
          const crossSite = /;\s*samesite\s*=\s*none/i.test(line);
          const own = sameSite(host, hostOf(capture.page));
          return [
            finding({
              check: this,
              subject,
              harm: crossSite ? 'broken' : own ? 'exposed' : 'tidy',
              target: load.url,
              load,
              path: name,
              fault: crossSite ? 'SameSite=None' : 'Secure',
              numbers: { thirdParty: own ? 0 : 1 },
              title: `The cookie ${name} of ${host} is set without Secure${crossSite ? ', though SameSite=None needs it' : ''}`,
              plain: crossSite
                ? 'Browsers reject this cookie, so what needs it does not work.'
                : 'If a visitor reaches an http:// URL of this host, others on the network can read the cookie.',
            }),
          ];
        });
    });
  },
};
