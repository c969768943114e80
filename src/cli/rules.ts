import { Command, Option } from 'commander';
import { PageError } from '../core/capture/errors';
import { RULES, type RuleServer } from '../core/handover/redirectRules';
import { readChosenTargets } from '../core/handover/redirectRules/chosen';
import { typedAddress } from '../core/site/address';
import { defaultSettings } from '../core/site/settings';
import { collect, progress, readInput } from './options';

interface RulesFlags {
  site: string;
  server: RuleServer;
  missing?: string;
  mapHost?: string[];
  allowPrivate?: boolean;
}

/** `keen-lens rules`: redirect rules for what probes of a site find, and for missing pages. */
export function rulesCommand(): Command {
  return new Command('rules')
    .description('Ask for the entrances of a site and write redirect rules for what is wrong with them.')
    .requiredOption('--site <address>', 'home address of the site')
    .addOption(
      new Option('--server <server>', 'web server the rules are for').choices(Object.keys(RULES)).makeOptionMandatory(),
    )
    .option('--missing <file>', 'missing pages and the pages chosen for them: columns from and to, or fates as CSV')
    .option('--map-host <map>', 'HOST[:PORT]=IP[:PORT], may be repeated', collect)
    .option('--allow-private', 'allow loopback and private addresses')
    .addHelpText(
      'after',
      '\nExample:\n  keen-lens rules --site https://www.fernhollow.example/ --server nginx --missing moved.csv > redirects.conf',
    )
    .action(async (flags: RulesFlags) => {
      const home = typedAddress(flags.site, '--site').href;
      const { readListFile } = await import('../engine/services/readListFile');
      const { makeRules, samplePages } = await import('../engine/services/makeRules');
      const tables = flags.missing ? await readListFile(await readInput(flags.missing), flags.missing) : [];
      const chosen = tables[0] ? readChosenTargets(tables[0], flags.missing ?? '') : [];
      const options = {
        settings: {
          ...defaultSettings(home),
          mapHosts: flags.mapHost ?? [],
          allowPrivate: flags.allowPrivate ?? false,
        },
        signal: new AbortController().signal,
        onProgress: (done: number, total: number, now: string) => progress(`${done} of ${total}: ${now}`),
      };
      const { plan, report } = await makeRules(chosen, await samplePages(options), options);
      if (!report.entrances.some((e) => e.end))
        throw new PageError(
          `${new URL(home).host} could not be asked: ${report.entrances[0]?.error ?? 'no answer'}.`,
          '--site',
          'Check the address, or say where the host is with --map-host.',
        );
      for (const r of plan.refused) progress(`left out: ${r.from}${r.to ? ` -> ${r.to}` : ''}: ${r.why}`);
      process.stdout.write(RULES[flags.server].write(plan));
    });
}
