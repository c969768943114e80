import { Command } from 'commander';
import { InputError } from '../core/capture/errors';
import { fatesCsv } from '../core/handover/fatesTable';
import { typedAddress } from '../core/site/address';
import { FATE_MEANS, needsWork } from '../core/site/fates';
import { ROLES, readOutsideList, type Role } from '../core/site/lists/outsideList';
import { defaultSettings } from '../core/site/settings';
import { VERSION } from '../core/version';
import { collect, printJson, progress, readInput } from './options';

interface FatesFlags {
  site: string;
  column?: string[];
  mapHost?: string[];
  allowPrivate?: boolean;
  perSecond?: string;
  json?: boolean;
  csv?: boolean;
}

/** `keen-lens fates`: what happens to each address of a list from elsewhere. */
export function fatesCommand(): Command {
  return new Command('fates')
    .description(
      'Say what happens today to each address of a list: search export, old sitemap, inbound links, plain text.',
    )
    .argument('<file>', 'CSV, TSV, XLSX, XML sitemap or plain text')
    .requiredOption('--site <address>', 'home address of the site')
    .option(
      '--column <role=name>',
      `column of a role (${ROLES.join(', ')}), by name or number; may be repeated`,
      collect,
    )
    .option('--map-host <map>', 'HOST[:PORT]=IP[:PORT], may be repeated', collect)
    .option('--allow-private', 'allow loopback and private addresses')
    .option('--per-second <n>', 'requests a second to one host, 0 for no limit')
    .option('--json', 'print the result as JSON')
    .option('--csv', 'print a row for each address')
    .addHelpText(
      'after',
      '\nExample:\n  keen-lens fates pages.csv --site https://www.fernhollow.example/ --column address=Page --csv',
    )
    .action(async (file: string, flags: FatesFlags) => {
      const home = typedAddress(flags.site, '--site').href;
      const perSecond = flags.perSecond === undefined ? undefined : Number(flags.perSecond);
      if (perSecond !== undefined && !(perSecond >= 0))
        throw new InputError('A rate is a number from 0 up.', '--per-second', 'Write --per-second 2.');
      const { readListFile } = await import('../engine/services/readListFile');
      const { askFates } = await import('../engine/services/askFates');
      const list = readOutsideList(
        await readListFile(await readInput(file), file),
        home,
        columnsOf(flags.column ?? []),
      );
      if (list.kind === 'days')
        throw new InputError('The list has days in it and no addresses.', file, 'Give the export of pages.');
      progress(
        `${list.rows.length} rows, columns ${Object.entries(list.roles)
          .map(([role, i]) => `${role}=${list.columns[i] ?? i}`)
          .join(', ')}`,
      );
      const settings = defaultSettings(home);
      const report = await askFates(list, {
        settings: {
          ...settings,
          mapHosts: flags.mapHost ?? [],
          allowPrivate: flags.allowPrivate ?? false,
          perSecond: perSecond ?? settings.perSecond,
        },
        signal: new AbortController().signal,
        onProgress: (done, total, now) => progress(`${done} of ${total}: ${now}`),
      });
      if (flags.json)
        printJson({
          version: VERSION,
          ...report,
          rows: report.rows.map((r) => ({ ...r, nearest: r.nearest?.url ?? null, nearestWhy: r.nearest?.why ?? null })),
          unread: list.unread,
        });
      else if (flags.csv) process.stdout.write(fatesCsv(report.rows));
      else {
        for (const g of report.groups)
          console.log(
            `${needsWork(g.fate) ? '!' : ' '} ${String(g.count).padStart(7)}  ${g.fate}: ${FATE_MEANS[g.fate]}`,
          );
        for (const r of report.rows.filter((x) => needsWork(x.fate)).slice(0, 50))
          console.log(
            `  ${r.fate.padEnd(12)} ${r.address}${r.nearest ? `\n               nearest: ${r.nearest.url}` : ''}`,
          );
        if (list.unread.count > 0) console.log(`${list.unread.count} rows have no address that can be read.`);
      }
    });
}

function columnsOf(given: readonly string[]): Partial<Record<Role, string>> {
  return Object.fromEntries(
    given.map((text) => {
      const m = /^(\w+)=(.+)$/.exec(text);
      const role = ROLES.find((r) => r === m?.[1]);
      if (!m?.[2] || !role)
        throw new InputError(
          `"${text}" names no column.`,
          '--column',
          `Write ROLE=NAME with one of: ${ROLES.join(', ')}.`,
        );
      return [role, m[2]] as const;
    }),
  );
}
