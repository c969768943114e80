import { createHash, createHmac } from 'node:crypto';
import { request } from 'undici';
import type { Outgoing } from '../store/watch/deliveries';

const TIMEOUT_MS = 15_000;

/** A request as it is signed. */
export interface Signed {
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string;
}

/**
 * Signs a message for a webhook: HTTP Message Signatures (RFC 9421) with hmac-sha256 over method, address, digest (RFC
 * 9530) and type.
 * @param created seconds since 1970
 */
export function signed(url: string, secret: string, body: string, created: number): Signed {
  const digest = `sha-256=:${createHash('sha256').update(body).digest('base64')}:`;
  const type = 'application/json';
  const params = `("@method" "@target-uri" "content-digest" "content-type");created=${created};keyid="keen-lens";alg="hmac-sha256"`;
  const base = [
    '"@method": POST',
    `"@target-uri": ${url}`,
    `"content-digest": ${digest}`,
    `"content-type": ${type}`,
    `"@signature-params": ${params}`,
  ].join('\n');
  const signature = createHmac('sha256', secret).update(base).digest('base64');
  return {
    headers: {
      'content-type': type,
      'content-digest': digest,
      'signature-input': `watch=${params}`,
      signature: `watch=:${signature}:`,
      'user-agent': 'KeenLens/0.1 (watch)',
    },
    body,
  };
}

/**
 * Posts the notices of a run as JSON. Redirects are not followed: the address is the one that was agreed on.
 * @param id of the delivery: the same in every try
 * @throws Error when the answer is no success
 */
export async function postWebhook(
  to: { readonly url: string; readonly secret: string },
  id: number,
  message: Outgoing,
): Promise<void> {
  const body = JSON.stringify({
    version: 1,
    id,
    site: message.site,
    subject: message.subject,
    notices: message.notices.map(({ id: notice, at, kind, title, lines, path }) => ({
      id: notice,
      at,
      kind,
      title,
      lines,
      path,
    })),
  });
  const { headers } = signed(to.url, to.secret, body, Math.floor(Date.now() / 1000));
  const answer = await request(to.url, {
    method: 'POST',
    headers,
    body,
    headersTimeout: TIMEOUT_MS,
    bodyTimeout: TIMEOUT_MS,
  });
  await answer.body.dump({ limit: 65_536 });
  if (answer.statusCode < 200 || answer.statusCode >= 300)
    throw new Error(`The webhook responded with ${answer.statusCode}.`);
}
