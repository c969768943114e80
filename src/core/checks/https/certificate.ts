import { sameSite } from '../../capture/site';
import type { HostCertificate } from '../../capture/capture';
import { hostOf, isLoopbackHost } from '../../capture/url';
import type { Harm } from '../concern';
import { finding, limitOf, type Check } from '../finding';

/** True when a certificate's names cover a host (RFC 9525, 6.3: a star stands for one label). */
export function coversHost(certificate: Pick<HostCertificate, 'names'>, host: string): boolean {
  return certificate.names.some((n) => {
    const name = n.toLowerCase();
    return name === host || (name.startsWith('*.') && host.split('.').slice(1).join('.') === name.slice(2));
  });
}

/** The name with and without www. */
const twinOf = (host: string) => (host.startsWith('www.') ? host.slice(4) : `www.${host}`);

/** Certificates that run out, miss a name or come over an old protocol; connections that failed over one. */
export const certificate: Check = {
  id: 'certificate',
  concern: 'https',
  question: 'Are the certificates of this page’s hosts valid, lasting and complete?',
  examines:
    'Dates, names and protocol version of every host that the recording connected to; loads that failed because of a certificate.',
  cannotSee:
    'The certificate chain; hosts that this page does not use. Captures from other tools have no certificate data.',
  fixedWhen: 'A new recording shows a certificate with weeks left, all names, and TLS 1.2 or newer.',
  harms: ['exposed', 'broken', 'tidy'],
  standard: 'RFC 5280, 4.1.2.5; RFC 9525, 6.3; RFC 8996',
  change: 'Renew the certificate automatically, for www and the bare name; disable TLS 1.0 and 1.1.',
  groupedBy: 'host',
  thresholds: [
    {
      id: 'daysLeft',
      name: 'days left at least',
      unit: 'count',
      value: 21,
      why: 'Leaves time to notice a failed renewal and repair it.',
    },
  ],
  examine(subject) {
    const { capture } = subject.page;
    const main = hostOf(capture.page);
    const at = Date.parse(capture.recordedAt);
    const tell = (
      fault: string,
      host: string,
      harm: Harm,
      title: string,
      plain: string,
      numbers: Record<string, number> = {},
    ) =>
      finding({ check: this, subject, harm, target: `https://${host}/*`, path: title, title, plain, numbers, fault });
    const shown = (capture.observations?.certificates ?? []).flatMap((c) => {
      const daysLeft = Math.floor((Date.parse(c.validTo) - at) / 86_400_000);
      const out = [];
      if (daysLeft < 0)
        out.push(
          tell(
            'expired',
            c.host,
            'broken',
            `The certificate of ${c.host} has expired`,
            'Browsers show every visitor a warning instead of the page.',
            {
              daysLeft,
            },
          ),
        );
      else if (daysLeft < limitOf(this, subject, 'daysLeft'))
        out.push(
          tell(
            'ends soon',
            c.host,
            'exposed',
            `The certificate of ${c.host} expires in ${daysLeft} ${daysLeft === 1 ? 'day' : 'days'}`,
            'If nobody renews it, browsers show every visitor a warning from that day on.',
            { daysLeft },
          ),
        );
      if (/^TLS 1(\.[01])?$|^SSL/.test(c.protocol))
        out.push(
          tell(
            'old protocol',
            c.host,
            'exposed',
            `${c.host} uses ${c.protocol}, which is deprecated`,
            'The encryption of this connection is outdated and can be broken.',
          ),
        );
      if (c.host === main && c.names.length > 0 && !coversHost(c, twinOf(main)) && sameLevel(main))
        out.push(
          tell(
            'wrong name',
            c.host,
            'tidy',
            `The certificate of ${c.host} does not cover ${twinOf(main)}`,
            'Visitors who type the other name see a warning instead of the site.',
          ),
        );
      return out;
    });
    const failed = capture.loads
      .filter((l) => /ERR_CERT|ERR_SSL/.test(l.error ?? '') && !isLoopbackHost(hostOf(l.url)))
      .map((load) =>
        finding({
          check: this,
          subject,
          harm: 'broken',
          target: load.url,
          load,
          fault: 'refused',
          title: `The certificate of ${hostOf(load.url)} is refused (${load.error ?? ''})`,
          plain: sameSite(hostOf(load.url), main)
            ? 'Browsers refuse what comes from this server.'
            : 'Browsers refuse what comes from this third-party server.',
        }),
      );
    return [...shown, ...failed];
  },
};

/** Twins are expected of the bare name and www, not of hosts like media or tickets. */
const sameLevel = (host: string) => host.startsWith('www.') || host.split('.').length === 2;
