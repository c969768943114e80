import { Command, Option } from 'commander';
import { InputError } from '../core/capture/errors';
import { printJson, progress, writeWhole } from './options';

interface TokenFlags {
  scope: 'read' | 'change' | 'record';
  account?: string;
  output?: string;
  data?: string;
  json?: boolean;
}

/** `keen-lens token`: a token for the API, on the server itself. */
export function tokenCommand(): Command {
  return new Command('token')
    .description('Make a token for the API or for a recorder. It is shown once.')
    .argument('<name>', 'what it is for')
    .addOption(
      new Option('--scope <scope>', 'read, change, or record (for keen-lens recorder)')
        .choices(['read', 'change', 'record'])
        .makeOptionMandatory(),
    )
    .option('--account <name>', 'whose it is; needed for read and change where people have accounts')
    .option('-o, --output <file>', 'write it into a file instead of printing it')
    .option('--data <dir>', 'folder of the database')
    .option('--json', 'print it as JSON')
    .addHelpText('after', '\nExample:\n  keen-lens token attic-recorder --scope record -o recorder.token')
    .action(async (name: string, flags: TokenFlags) => {
      const { dataFolder, openStore } = await import('../engine/store/store');
      const { addToken } = await import('../engine/store/fleet/tokens');
      const { hasAccounts, listAccounts } = await import('../engine/store/people/accounts');
      const store = await openStore(flags.data ?? dataFolder());
      try {
        const account = (await listAccounts(store)).find((a) => a.name === flags.account?.trim().toLowerCase());
        if (flags.account !== undefined && !account)
          throw new InputError(`There is no account "${flags.account}".`, '--account', 'See keen-lens account list.');
        if (!account && flags.scope !== 'record' && (await hasAccounts(store)))
          throw new InputError('Say whose token it is.', '--account', 'Name an account.');
        const { token } = await addToken(store, { name, scope: flags.scope, accountId: account?.id ?? null });
        if (flags.output !== undefined) {
          await writeWhole(flags.output, `${token}\n`, 0o600);
          progress(`${flags.output}: token ${name}`);
        } else if (flags.json) printJson({ name, scope: flags.scope, token });
        else process.stdout.write(`${token}\n`);
      } finally {
        await store.destroy();
      }
    });
}
