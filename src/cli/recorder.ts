import { Command } from 'commander';
import fs from 'node:fs/promises';
import os from 'node:os';
import { InputError } from '../core/capture/errors';
import { progress, wholeNumber } from './options';

interface RecorderFlags {
  queue: string;
  server: string;
  tokenFile: string;
  name: string;
  region: string;
  slots: number;
}

/** `keen-lens recorder`: records for a server elsewhere. */
export function recorderCommand(): Command {
  return new Command('recorder')
    .description('Take recordings, probes and proofs from the queue of a server, do them here, and hand them in.')
    .requiredOption('--queue <address>', 'redis://HOST:PORT, as the server has it in KEEN_LENS_QUEUE')
    .requiredOption('--server <url>', 'address of the server')
    .requiredOption('--token-file <file>', 'file with a token of the server: keen-lens token NAME --scope record')
    .option('--name <name>', 'how the server lists it', `${os.hostname()}-${process.pid}`)
    .option('--region <name>', 'where it stands', 'unnamed')
    .option('--slots <n>', 'recordings at a time', wholeNumber(1), 1)
    .addHelpText(
      'after',
      '\nExample:\n  keen-lens recorder --queue redis://10.0.0.5:6379 --server https://lens.fernhollow.example --token-file token.txt\n\nCtrl C or SIGTERM: it ends what it has and takes nothing more.',
    )
    .action(async (flags: RecorderFlags) => {
      const { startRecorder } = await import('../engine/fleet/recorder');
      const { recordWork } = await import('../engine/fleet/recordWork');
      const { doRemoteTask } = await import('../engine/fleet/remoteTask');
      const { ownPorts } = await import('../engine/store/serverLock');
      const { dataFolder } = await import('../engine/store/store');
      const { chromiumVersion } = await import('../engine/record/chromium');
      const recorder = await startRecorder({
        ...flags,
        token: await readToken(flags.tokenFile),
        chromium: await chromiumVersion(),
        rootLink: process.platform === 'linux' && process.getuid?.() === 0,
        record: (work) => recordWork(work, { ownPorts: ownPorts(dataFolder()) }),
        task: (work) => doRemoteTask(work, { ownPorts: ownPorts(dataFolder()), signal: new AbortController().signal }),
        onProgress: progress,
      });
      progress(`recorder ${flags.name}: ready`);
      await new Promise<void>((done) => {
        for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => done());
      });
      progress('ending: what is begun is handed in first');
      await recorder.end();
    });
}

/** @throws InputError for a file that cannot be read or holds no token */
async function readToken(file: string): Promise<string> {
  const text = await fs.readFile(file, 'utf8').catch((error: unknown) => {
    throw new InputError(
      `The token cannot be read: ${error instanceof Error ? error.message : String(error)}`,
      file,
      'Write the token into a file that only you may read.',
    );
  });
  const token = text.trim();
  if (!/^kl_[\w-]{43}$/.test(token))
    throw new InputError(
      'The file holds no token.',
      file,
      'Make one on the server: keen-lens token NAME --scope record',
    );
  return token;
}
