import { Command } from 'commander';
import { bytesText } from '../core/checks/texts';
import { printJson, progress } from './options';

interface BackupFlags {
  data?: string;
  json?: boolean;
}

/** `keen-lens backup`: the whole database as one file, also while a server works on it. */
export function backupCommand(): Command {
  return new Command('backup')
    .description('Copy the whole database into one file; a server may go on working meanwhile.')
    .argument('<file>', 'file to write')
    .option('--data <dir>', 'folder of the database')
    .option('--json', 'print the result as JSON')
    .addHelpText(
      'after',
      '\nExample:\n  keen-lens backup friday.db\n\nHeaders and passwords of sites are in it encrypted: keep secrets.key of the data folder apart from it.',
    )
    .action(async (file: string, flags: BackupFlags) => {
      const { backUp } = await import('../engine/store/backup');
      const { dataFolder } = await import('../engine/store/store');
      let said = -1;
      const bytes = await backUp(flags.data ?? dataFolder(), file, (share) => {
        const percent = Math.floor(share * 10) * 10;
        if (percent > said) progress(`copied ${(said = percent)} %`);
      });
      if (flags.json) printJson({ file, bytes });
      else progress(`${file}: ${bytesText(bytes)}`);
    });
}

/** `keen-lens restore`: a backup in the place of the database; what was there is kept beside it. */
export function restoreCommand(): Command {
  return new Command('restore')
    .description('Put a backup in the place of the database; what was there is kept beside it.')
    .argument('<file>', 'file that backup has written')
    .option('--data <dir>', 'folder of the database')
    .option('--json', 'print the result as JSON')
    .addHelpText('after', '\nExample:\n  keen-lens restore friday.db')
    .action(async (file: string, flags: BackupFlags) => {
      const { restore } = await import('../engine/store/backup');
      const { dataFolder } = await import('../engine/store/store');
      const folder = flags.data ?? dataFolder();
      const aside = await restore(folder, file, new Date());
      if (flags.json) printJson({ data: folder, keptAs: aside ?? null });
      else progress(`The backup is in ${folder}.${aside ? ` What was there is ${aside}.` : ''}`);
    });
}
