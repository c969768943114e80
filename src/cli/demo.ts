import { Command } from 'commander';
import { printJson, progress } from './options';

/** `keen-lens demo`: puts the shipped captures of Fernhollow Botanic Garden into the database. */
export function demoCommand(): Command {
  return new Command('demo')
    .description('Put the demo, Fernhollow Botanic Garden, into the database.')
    .option('--data <dir>', 'folder for the database')
    .option('--json', 'print the result as JSON')
    .addHelpText('after', '\nExample:\n  keen-lens demo --data ./audit-data')
    .action(async (flags: { data?: string; json?: boolean }) => {
      const { seedDemo } = await import('../engine/services/seedDemo');
      const { dataFolder, openStore } = await import('../engine/store/store');
      const store = await openStore(flags.data ?? dataFolder());
      try {
        const result = await seedDemo(store, progress);
        if (flags.json) printJson(result);
        else progress(`${result.captures} captures of the demo are in.`);
      } finally {
        await store.destroy();
      }
    });
}
