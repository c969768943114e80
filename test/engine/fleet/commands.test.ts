import { expect } from 'chai';
import fs from 'node:fs';
import path from 'node:path';
import { tokenOf } from '../../../src/engine/store/fleet/tokens';
import { accountOf } from '../../../src/engine/store/people/accounts';
import { openStore } from '../../../src/engine/store/store';
import { runCommand } from '../../fixtures/commandLine';
import { tempFolder } from '../../fixtures/temp';

describe('commands: account, token, recorder', () => {
  const { folder, remove } = tempFolder('people-commands');
  const data = ['--data', folder];
  const secret = (text: string) => {
    const file = path.join(folder, `password-${text.length}`);
    fs.writeFileSync(file, `${text}\n`);
    return ['--password-file', file];
  };
  after(remove);

  it('make accounts, the first an administrator’s, and change a password', async () => {
    const add = (...args: string[]) => runCommand('account', 'add', ...args, ...data);
    expect((await add('ben', '--role', 'fixer', ...secret('fern moss lichen bark'))).err).to.contain('first account');
    expect((await add('ada', '--role', 'administrator', ...secret('short'))).code).to.equal(3);
    expect((await add('ada', '--role', 'administrator', ...secret('fern moss lichen bark'))).code).to.equal(0);
    expect((await add('ada', '--role', 'owner', ...secret('fern moss lichen bark'))).err).to.contain('already');
    expect((await add('ben', '--site', '1:fixer', ...secret('fern moss lichen bark'))).err).to.contain('ID=fixer');
    expect((await add('cleo', '--role', 'king', ...secret('fern moss lichen bark'))).code).to.equal(2);
    const { out } = await runCommand('account', 'list', '--json', ...data);
    const { accounts } = JSON.parse(out) as { accounts: { name: string; everywhere: string }[] };
    expect(accounts.map((a) => `${a.name}: ${a.everywhere}`)).to.deep.equal(['ada: administrator']);
    expect(out).to.not.contain('scrypt');
    await runCommand('account', 'password', 'ada', ...secret('another long password'), ...data);
    const store = await openStore(folder);
    expect(await accountOf(store, 'ada', 'fern moss lichen bark')).to.equal(undefined);
    expect((await accountOf(store, 'Ada', 'another long password'))?.name).to.equal('ada');
    await store.destroy();
    expect((await runCommand('account', 'password', 'nobody', ...secret('x'), ...data)).code).to.equal(3);
  });

  it('make tokens, which only their owner can read', async () => {
    const file = path.join(folder, 'recorder.token');
    expect((await runCommand('token', 'attic', '--scope', 'record', '-o', file, ...data)).code).to.equal(0);
    expect(fs.statSync(file).mode & 0o077).to.equal(0);
    const store = await openStore(folder);
    expect(await tokenOf(store, fs.readFileSync(file, 'utf8').trim())).to.include({ name: 'attic', scope: 'record' });
    expect(await tokenOf(store, 'kl_wrong')).to.equal(undefined);
    await store.destroy();
    expect((await runCommand('token', 'x', '--scope', 'read', ...data)).err).to.contain('Say whose token it is.');
    const named = await runCommand('token', 'x', '--scope', 'read', '--account', 'ada', '--json', ...data);
    expect((JSON.parse(named.out) as { token: string }).token).to.match(/^kl_[\w-]{43}$/);
    expect((await runCommand('token', 'x', '--scope', 'all', ...data)).code).to.equal(2);
  });

  it('start no recorder without a server, a queue and a token', async () => {
    const file = path.join(folder, 'recorder.token');
    const start = (queue: string, server: string, token: string) =>
      runCommand('recorder', '--queue', queue, '--server', server, '--token-file', token);
    expect((await start('redis://127.0.0.1:1', 'http://127.0.0.1:1', '/nowhere')).err).to.contain('cannot be read');
    fs.writeFileSync(path.join(folder, 'no.token'), 'nothing');
    expect((await start('redis://127.0.0.1:1', 'http://127.0.0.1:1', path.join(folder, 'no.token'))).err).to.contain(
      'holds no token',
    );
    expect((await start('http://127.0.0.1:1', 'http://127.0.0.1:1', file)).err).to.contain(
      'is not the address of a queue',
    );
    expect((await start('redis://127.0.0.1:1', 'ftp://x', file)).err).to.contain('is not the address of a server');
    const away = await start('redis://127.0.0.1:1', 'http://127.0.0.1:1', file);
    expect([away.code, away.err]).to.satisfy(
      ([code, err]: [number, string]) => code === 3 && err.includes('cannot be reached'),
    );
  });
});
