/**
 * The servers of a replay and, without a link of the system, the emulated one: a process of its own, so that neither the
 * browser's nor our own work holds packets up. Started by `ReplayChild`.
 */
import os from 'node:os';
import { SOCKS_REPLY, SocksServer } from '../net/socks';
import { AnswerBook } from './answerBook';
import { EmulatedLink } from './emulatedLink';
import type { Reply, Told } from './messages';
import { ReplayServers } from './servers';

const book = new AnswerBook();
let servers: ReplayServers | undefined;
let socks: SocksServer | undefined;

process.on('message', (message: Told & { readonly id: number }) => {
  void handle(message).then(
    (more) => process.send?.({ id: message.id, ...more } satisfies Reply),
    (error: unknown) => process.send?.({ id: message.id, error: String(error) } satisfies Reply),
  );
});
process.on('disconnect', () => process.exit(0));
// A busy browser must not hold packets up, where this user may say so.
try {
  os.setPriority(-10);
} catch {
  // It runs like everything else.
}

async function handle(told: Told): Promise<Omit<Reply, 'id'>> {
  if (told.kind === 'answers') book.set(told.answers);
  if (told.kind === 'report') return { report: book.report() };
  if (told.kind === 'hangup') {
    servers?.hangUp();
    socks?.hangUp();
    book.forget();
  }
  if (told.kind !== 'start') return {};
  const made = (servers = new ReplayServers(told.hosts, told.keys, book));
  if ('addresses' in told.over) {
    await made.listen(told.hosts, told.over.addresses);
    return {};
  }
  const { lookups } = told.over;
  const link = new EmulatedLink(told.over.link);
  const setup = new Map(told.hosts.map((h) => [`${h.host}:${h.port}`, h.setupMs]));
  const known = new Set<string>();
  socks = await SocksServer.start(async (host, port) => {
    // Names that no recording knows lead nowhere: nothing leaves this machine.
    if (!made.has(host, port)) return { refused: SOCKS_REPLY.hostUnreachable };
    const lookupMs = lookups && !known.has(host) ? link.rttMs : 0;
    known.add(host);
    const { browser, server } = await link.open(lookupMs + (setup.get(`${host}:${port}`) ?? 0));
    made.serve(host, port, server);
    return { stream: browser };
  });
  return { port: socks.port };
}
