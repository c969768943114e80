/**
 * The servers of a replay and, without a link of the system, the emulated one: a process of its own, so that neither the
 * browser's nor our own work holds packets up. Started by `ReplayChild`.
 */
import net from 'node:net';
import os from 'node:os';
import { hostInAddress } from '../net/hostMap';
import { AnswerBook } from './answerBook';
import { EmulatedLink } from './emulatedLink';
import type { Reply, ReplayHost, Told } from './messages';
import { ReplayServers } from './servers';

const book = new AnswerBook();
let servers: ReplayServers | undefined;
const open = new Set<net.Socket>();
let hangUpAlso: () => void = () => undefined;

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
    hangUpAlso();
    book.forget();
  }
  if (told.kind !== 'start') return {};
  const made = (servers = new ReplayServers(told.hosts, told.keys, book));
  if ('addresses' in told.over) {
    await made.listen(told.hosts, told.over.addresses);
    return {};
  }
  const { lookups, link } = told.over;
  return { places: await listenBehind(new EmulatedLink(link), made, told.hosts, lookups) };
}

/** Takes connections for each host on a loopback address of its own, and gives them to its server over the link. */
async function listenBehind(
  link: EmulatedLink,
  made: ReplayServers,
  hosts: readonly ReplayHost[],
  lookups: boolean,
): Promise<Record<string, string>> {
  const names = [...new Set(hosts.map((h) => h.host))];
  const known = new Set<string>();
  const places: Record<string, string> = {};
  for (const host of hosts) {
    const listener = net.createServer((socket) => {
      open.add(socket);
      socket.setNoDelay(true);
      socket.once('close', () => open.delete(socket));
      // The first connection to a host waits for its name.
      const lookupMs = lookups && !known.has(host.host) ? link.rttMs : 0;
      known.add(host.host);
      made.serve(host.host, host.port, link.join(socket, lookupMs + host.setupMs));
    });
    const nth = names.indexOf(host.host) + 1;
    const address = await listen(listener, `127.77.${nth >> 8}.${nth & 255}`).catch(() =>
      listen(listener, '127.0.0.1'),
    );
    places[`${hostInAddress(host.host)}:${host.port}`] = address;
  }
  hangUpAlso = () => {
    for (const socket of open) socket.destroy();
    known.clear();
  };
  return places;
}

function listen(listener: net.Server, address: string): Promise<string> {
  return new Promise((done, fail) => {
    listener.once('error', fail);
    listener.listen(0, address, () => {
      listener.off('error', fail);
      done(`${address}:${(listener.address() as net.AddressInfo).port}`);
    });
  });
}
