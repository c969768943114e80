import { createHash } from 'node:crypto';
import { setMaxListeners } from 'node:events';
import { compareVersions, type FetchedFile, type HttpsVersion } from '../../core/site/httpsVersion';
import { CrawlClient, FetchError } from '../crawl/client';
import { followRedirects } from '../crawl/followRedirects';
import { HostGate } from '../crawl/hostGate';
import { MAX_PROBE_MS, type ProbeOptions } from './probeEntrances';

/** A file that pages fetch by http. */
export interface PlainFile {
  readonly url: string;
  readonly own: boolean;
  readonly pages: number;
}

/** Files that are compared at most in one probe. */
export const MOST_VERSIONS = 300;

/**
 * Asks for files and their https versions and compares them. No header or password of the site goes along.
 * @throws the reason of the signal
 */
export async function compareHttpsVersions(
  files: readonly PlainFile[],
  options: ProbeOptions,
): Promise<HttpsVersion[]> {
  const { settings, signal } = options;
  setMaxListeners(0, signal);
  const client = new CrawlClient(
    { ...settings, ownPorts: options.ownPorts, roots: options.roots },
    () => false,
    MAX_PROBE_MS,
  );
  const gate = new HostGate(settings);
  const get = (url: string): Promise<FetchedFile> =>
    gate.run(url, async () => {
      try {
        const { end, fault } = await followRedirects(client, url, 'text', signal);
        if (!end) return { status: 0, type: '', bytes: 0, hash: '', error: fault?.message ?? 'no answer' };
        // One that leads back to http is no https version.
        if (url.startsWith('https:') && !end.url.startsWith('https:'))
          return { status: 0, type: '', bytes: 0, hash: '', error: 'it redirects to http' };
        const bytes = end.answer.bytes ?? Buffer.alloc(0);
        return {
          status: end.answer.status,
          type: end.answer.headers['content-type'] ?? '',
          bytes: bytes.length,
          hash: createHash('sha256').update(bytes).digest('hex'),
        };
      } catch (error) {
        if (signal.aborted || !(error instanceof FetchError)) throw error;
        return { status: 0, type: '', bytes: 0, hash: '', error: error.message };
      }
    });
  try {
    return await Promise.all(
      files.slice(0, MOST_VERSIONS).map(async (file) => {
        const [http, https] = await Promise.all([get(file.url), get(file.url.replace(/^http:/i, 'https:'))]);
        return { ...file, ...compareVersions(http, https) };
      }),
    );
  } finally {
    gate.close();
    await client.close();
  }
}
