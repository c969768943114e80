import { Command, Option } from 'commander';
import fs from 'node:fs/promises';
import { createInterface } from 'node:readline';
import { InputError } from '../core/capture/errors';
import { ROLE_MEANS, ROLES, type Role, type Roles } from '../core/people/roles';
import type * as people from '../engine/store/people/accounts';
import type { Store } from '../engine/store/store';
import { collect, printJson, progress } from './options';

interface AccountFlags {
  role?: Role;
  site?: string[];
  passwordFile?: string;
  data?: string;
  json?: boolean;
}

/** `keen-lens account`: who may log in, on the server itself: also when nobody can any more. */
export function accountCommand(): Command {
  const command = new Command('account')
    // Before its own commands, which take this over.
    .exitOverride()
    .showHelpAfterError('(--help shows how)')
    .description('Accounts of people. With the first one, everybody needs one.')
    .addHelpText(
      'after',
      `\nExample:\n  keen-lens account add ada --role administrator\n  keen-lens account add ben --site 1=fixer\n\nRoles:\n${ROLES.map((r) => `  ${r}: ${ROLE_MEANS[r]}`).join('\n')}`,
    );
  const data = () => new Option('--data <dir>', 'folder of the database');
  const password = () => new Option('--password-file <file>', 'file with the password; asked for when left out');
  command
    .command('add <name>')
    .description('Make an account.')
    .addOption(new Option('--role <role>', 'role on all sites').choices(ROLES))
    .option('--site <id=role>', 'role on one site, may be repeated', collect)
    .addOption(password())
    .addOption(data())
    .action(async (name: string, flags: AccountFlags) => {
      const roles: Roles = { everywhere: flags.role, sites: (flags.site ?? []).map(readSiteRole) };
      const secret = await readPassword(flags.passwordFile);
      await onStore(flags, async (store, accounts) => {
        await accounts.addAccount(store, { name, password: secret, ...roles });
      });
      progress(`${name}: added`);
    });
  command
    .command('password <name>')
    .description('Set a new password; its browsers are logged out.')
    .addOption(password())
    .addOption(data())
    .action(async (name: string, flags: AccountFlags) => {
      const secret = await readPassword(flags.passwordFile);
      await onStore(flags, async (store, accounts) => {
        const account = (await accounts.listAccounts(store)).find((a) => a.name === name.trim().toLowerCase());
        if (!account) throw new InputError(`There is no account "${name}".`, 'name', 'See keen-lens account list.');
        await accounts.changeAccount(store, account.id, { password: secret, disabled: false });
      });
      progress(`${name}: the password is changed`);
    });
  command
    .command('list')
    .description('List accounts.')
    .option('--json', 'as JSON')
    .addOption(data())
    .action((flags: AccountFlags) =>
      onStore(flags, async (store, accounts) => {
        const all = await accounts.listAccounts(store);
        if (flags.json) return printJson({ accounts: all });
        if (all.length === 0) progress('Nobody has an account: whoever reaches the server may do everything.');
        for (const a of all)
          process.stdout.write(
            `${a.name}\t${a.everywhere ?? a.sites.map((s) => `site ${s.siteId}: ${s.role}`).join(', ')}${a.disabledAt ? '\tdisabled' : ''}\n`,
          );
      }),
    );
  return command;
}

async function onStore(
  flags: AccountFlags,
  work: (store: Store, accounts: typeof people) => Promise<void>,
): Promise<void> {
  const { dataFolder, openStore } = await import('../engine/store/store');
  const store = await openStore(flags.data ?? dataFolder());
  try {
    await work(store, await import('../engine/store/people/accounts'));
  } finally {
    await store.destroy();
  }
}

function readSiteRole(text: string): Roles['sites'][number] {
  const [, id, role] = /^(\d+)=(owner|fixer|auditor)$/.exec(text) ?? [];
  if (!id || !role)
    throw new InputError(`"${text}" is no role on a site.`, '--site', 'Write it as ID=owner, ID=fixer or ID=auditor.');
  return { siteId: Number(id), role: role as Roles['sites'][number]['role'] };
}

/** The password from a file, or as it is typed. */
async function readPassword(file: string | undefined): Promise<string> {
  if (file !== undefined) {
    const text = await fs.readFile(file, 'utf8').catch((error: unknown) => {
      throw new InputError(
        `The password cannot be read: ${error instanceof Error ? error.message : String(error)}`,
        file,
        'Write it into a file that only you may read.',
      );
    });
    return text.replace(/\r?\n$/, '');
  }
  progress('Password:');
  // What is typed is not shown: nothing is written while it is read.
  const lines = createInterface({ input: process.stdin, output: undefined, terminal: process.stdin.isTTY });
  try {
    for await (const line of lines) return line;
  } finally {
    lines.close();
  }
  throw new InputError('No password was given.', 'standard input', 'Type one, or name a file with --password-file.');
}
