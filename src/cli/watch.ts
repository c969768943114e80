import { Command } from 'commander';
import { progress } from './options';
import { UsageError } from './usage';

interface WatchFlags {
  once?: boolean;
  data?: string;
}

/** `keen-lens watch --once`: what schedules have due, for cron or a timer where no server runs. */
export function watchCommand(): Command {
  return new Command('watch')
    .description('Do what schedules have due, judge limits, and send notices. The server does so by itself.')
    .option('--once', 'look once, work until all that was started has ended, and end')
    .option('--data <dir>', 'folder of the database')
    .addHelpText(
      'after',
      '\nExample:\n  keen-lens watch --once --data ./audit-data\n\ndocs/watch.md has lines for cron and a systemd timer.',
    )
    .action(async (flags: WatchFlags) => {
      if (!flags.once) throw new UsageError('Without a server the watch looks once: add --once. (--help shows how)');
      const { dataFolder, openStore } = await import('../engine/store/store');
      const { runWatch } = await import('../engine/jobs/runWatch');
      const { PageError } = await import('../core/capture/errors');
      const folder = flags.data ?? dataFolder();
      process.env.KEEN_LENS_DATA = folder;
      const store = await openStore(folder);
      try {
        const jobs = await runWatch(store, new Date(), progress);
        if (jobs.length === 0) progress('Nothing is due.');
        const failed = jobs.find((j) => j.state === 'failed');
        if (failed?.error) throw new PageError(failed.error.what, failed.error.where, failed.error.next);
      } finally {
        await store.destroy();
      }
    });
}
