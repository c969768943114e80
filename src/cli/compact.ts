import { Command } from 'commander';
import { bytesText } from '../core/checks/texts';
import { printJson, progress, wholeNumber } from './options';

interface CompactFlags {
  keep?: number;
  data?: string;
  json?: boolean;
}

/** `keen-lens compact`: lets go what is not needed, and makes the database as small as what is in it. */
export function compactCommand(): Command {
  return new Command('compact')
    .description('Say what each site takes on the disk, let old files go, and make the database small (VACUUM).')
    .option(
      '--keep <n>',
      'sweeps of each site whose captures keep their files; of older ones findings and figures stay',
      wholeNumber(1),
    )
    .option('--data <dir>', 'folder of the database')
    .option('--json', 'print the result as JSON')
    .addHelpText(
      'after',
      '\nExample:\n  keen-lens compact --keep 3\n\nA server may go on working meanwhile; it waits while the file is written anew.',
    )
    .action(async (flags: CompactFlags) => {
      const fs = await import('node:fs');
      const path = await import('node:path');
      const { sql } = await import('kysely');
      const { DATABASE, dataFolder, openStore } = await import('../engine/store/store');
      const { diskBySite, removeUnusedBodies, thinSite } = await import('../engine/store/retention');
      const { listSites } = await import('../engine/store/sites');
      const folder = flags.data ?? dataFolder();
      const store = await openStore(folder);
      const size = () => fs.statSync(path.join(folder, DATABASE)).size;
      try {
        const before = size();
        const sites = await listSites(store);
        let thinned = 0;
        const { keep } = flags;
        if (keep !== undefined) for (const site of sites) thinned += await thinSite(store, site.id, keep);
        await removeUnusedBodies(store);
        progress('writing the database anew');
        await sql`vacuum`.execute(store);
        await sql`pragma wal_checkpoint(truncate)`.execute(store);
        const ids = sites.map((s) => s.id);
        const rows = (await diskBySite(store, ids)).map((d, i) => ({ name: sites[i]?.name ?? '', ...d }));
        if (flags.json) return printJson({ before, after: size(), thinned, sites: rows });
        for (const r of rows)
          process.stdout.write(
            `${r.name}: ${r.captures} captures, ${bytesText(r.captureBytes)}; files ${bytesText(r.bodyBytes)}\n`,
          );
        progress(
          `${thinned} captures let go of their files. The database: ${bytesText(before)} before, ${bytesText(size())} now.`,
        );
      } finally {
        await store.destroy();
      }
    });
}
