import { expect } from 'chai';
import http2 from 'node:http2';
import { once } from 'node:events';
import net, { type AddressInfo } from 'node:net';
import { generate } from 'selfsigned';
import { AnswerBook } from '../../../src/engine/replay/answerBook';
import type { Answer, ReplayHost } from '../../../src/engine/replay/messages';
import { ReplayServers } from '../../../src/engine/replay/servers';

const HOST = 'www.fernhollow.example';

describe('engine/replay: servers over HTTP/2', () => {
  const book = new AnswerBook();
  let servers: ReplayServers;
  let client: http2.ClientHttp2Session;
  before(async () => {
    const free = net.createServer().listen(0, '127.0.0.1');
    await once(free, 'listening');
    const { port } = free.address() as AddressInfo;
    await new Promise((done) => free.close(done));
    const made = await generate([{ name: 'commonName', value: HOST }], { keySize: 2048 });
    const host: ReplayHost = {
      ...{ origin: `https://${HOST}`, host: HOST, port, secure: true, protocol: 'h2', order: 'fair' },
      ...{ setupMs: 0, oldTls: false },
    };
    servers = new ReplayServers([host], { key: made.private, cert: made.cert }, book);
    await servers.listen([host], { [HOST]: '127.0.0.1' });
    client = http2.connect(`https://127.0.0.1:${port}`, { servername: HOST, rejectUnauthorized: false });
  });
  after(() => {
    client.destroy();
    servers.hangUp();
  });

  const answer = (body: string, more: Partial<Answer> = {}): Answer => ({
    ...{ method: 'GET', url: `https://${HOST}/`, status: 200, headers: [], body: Buffer.from(body), waitMs: 60 },
    ...more,
  });
  /** What a request is told ahead of its answer, and the answer. */
  async function ask(path = '/'): Promise<{ early: string[]; body: string }> {
    const stream = client.request({ ':path': path });
    const early: string[] = [];
    stream.on('headers', (headers: http2.IncomingHttpHeaders) => early.push(String(headers.link)));
    let body = '';
    stream.setEncoding('utf8').on('data', (part: string) => (body += part));
    await once(stream, 'end');
    return { early, body };
  }

  it('count each request once, and answer one that comes again as it was answered again', async () => {
    book.set([answer('first'), answer('second')]);
    expect((await ask()).body).to.equal('first');
    expect((await ask()).body).to.equal('second');
    expect(book.report().requests).to.equal(2);
  });

  it('send Early Hints ahead of an answer', async () => {
    book.set([answer('page', { hints: { links: ['</a.css>; rel=preload', '</b.js>; rel=preload'], ms: 5 } })]);
    expect(await ask()).to.deep.equal({ early: ['</a.css>; rel=preload, </b.js>; rel=preload'], body: 'page' });
  });

  it('go on where hints cannot be sent as they stand in a file', async () => {
    book.set([answer('page', { hints: { links: ['</a.css>\r\nx: y'], ms: 0 } })]);
    expect(await ask()).to.deep.equal({ early: [], body: 'page' });
    book.set([answer('late', { hints: { links: ['</a.css>; rel=preload'], ms: 1e12 } })]);
    expect(await ask()).to.deep.equal({ early: [], body: 'late' });
  });
});
