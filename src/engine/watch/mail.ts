import { InputError } from '../../core/capture/errors';
import type { MailServer } from '../store/appSettings';

/** A mail in plain text. */
export interface Mail {
  readonly to: readonly string[];
  readonly subject: string;
  readonly text: string;
  readonly attachments?: readonly { readonly filename: string; readonly content: Uint8Array; readonly type: string }[];
}

const TIMEOUT_MS = 20_000;

const MEANS: readonly (readonly [pattern: RegExp, says: string, next: string])[] = [
  [/ECONNREFUSED|ESOCKET.*refused/, 'The mail server refused the connection', 'Check host and port.'],
  [/ENOTFOUND|EDNS|EAI_/, 'The name of the mail server is not known', 'Check the host.'],
  [/EAUTH/, 'The mail server did not accept name and password', 'Check both.'],
  [/STARTTLS|ETLS/, 'The mail server offers no STARTTLS', 'Choose TLS, or another port.'],
  [
    /CERT|SELF_SIGNED|UNABLE_TO_VERIFY/,
    'The certificate of the mail server is not accepted',
    'Check its name, or give its root by NODE_EXTRA_CA_CERTS.',
  ],
  [/ETIMEDOUT|ETIMEOUT|ECONNECTION/, 'The mail server did not answer in time', 'Check host and port.'],
  [/EENVELOPE/, 'The mail server did not accept an address', 'Check sender and recipients.'],
];

/**
 * Sends a mail through a server (SMTP, RFC 5321; STARTTLS, RFC 3207).
 * @throws InputError that says what the server did
 */
export async function sendMail(server: MailServer, mail: Mail): Promise<void> {
  // Read when a mail is sent: no screen waits for it.
  const { default: nodemailer } = await import('nodemailer');
  const transport = nodemailer.createTransport({
    host: server.host,
    port: server.port,
    secure: server.security === 'tls',
    requireTLS: server.security === 'starttls',
    ignoreTLS: server.security === 'none',
    auth: server.user ? { user: server.user, pass: server.password } : undefined,
    connectionTimeout: TIMEOUT_MS,
    greetingTimeout: TIMEOUT_MS,
    socketTimeout: TIMEOUT_MS,
    disableFileAccess: true,
    disableUrlAccess: true,
  });
  try {
    await transport.sendMail({
      from: server.from,
      to: [...mail.to],
      subject: mail.subject,
      text: mail.text,
      // Others' automatic answers are not wanted (RFC 3834).
      headers: { 'Auto-Submitted': 'auto-generated' },
      attachments: mail.attachments?.map((a) => ({
        filename: a.filename,
        content: Buffer.from(a.content),
        contentType: a.type,
      })),
    });
  } catch (error) {
    const { code = '', message = '' } = error as { code?: string; message?: string };
    const text = `${code} ${message}`;
    const [, says, next] = MEANS.find(([pattern]) => pattern.test(text)) ?? [
      '',
      'The mail could not be sent',
      'Check the mail server.',
    ];
    throw new InputError(`${says}: ${message.slice(0, 200)}`, `${server.host}:${server.port}`, next);
  } finally {
    transport.close();
  }
}
