import { expect } from 'chai';
import fs from 'node:fs';
import path from 'node:path';
import { InputError } from '../../src/core/capture/errors';
import { backUp, restore } from '../../src/engine/store/backup';
import { claimFolder } from '../../src/engine/store/serverLock';
import { addSite } from '../../src/engine/store/sites';
import { DATABASE, openStore } from '../../src/engine/store/store';
import { runCommand as run } from '../fixtures/commandLine';
import { tempFolder } from '../fixtures/temp';

const NOW = new Date('2026-11-28T10:00:00Z');

describe('engine/store/backup', () => {
  const temp = tempFolder('backup');
  after(temp.remove);
  const at = (...names: string[]) => path.join(temp.folder, ...names);
  const withSite = async (folder: string, name: string) => {
    const store = await openStore(folder);
    await addSite(store, name, `https://${name}/`);
    await store.destroy();
  };
  const names = async (folder: string) => {
    const store = await openStore(folder);
    const rows = await store.selectFrom('sites').select('name').execute();
    await store.destroy();
    return rows.map((r) => r.name);
  };
  const refusal = async (work: Promise<unknown>): Promise<InputError> => {
    try {
      await work;
    } catch (error) {
      if (error instanceof InputError) return error;
      throw error;
    }
    throw new Error('nothing was wrong');
  };

  it('copies what is there while the database is open, and puts it back with what was there set aside', async () => {
    await withSite(at('one'), 'www.fernhollow.example');
    const open = await openStore(at('one'));
    const bytes = await backUp(at('one'), at('friday.db'));
    await open.destroy();
    expect(bytes).to.be.above(10_000);
    expect(fs.statSync(at('friday.db')).mode & 0o077).to.equal(0);
    await withSite(at('one'), 'later.example');
    const aside = await restore(at('one'), at('friday.db'), NOW);
    expect(await names(at('one'))).to.deep.equal(['www.fernhollow.example']);
    // The database that was replaced is whole.
    fs.mkdirSync(at('old'));
    fs.copyFileSync(aside ?? '', at('old', DATABASE));
    expect(await names(at('old'))).to.have.members(['www.fernhollow.example', 'later.example']);
  });

  it('goes into a new folder by the command line', async () => {
    const made = await run('restore', at('friday.db'), '--data', at('two'), '--json');
    expect(made.code).to.equal(0);
    expect(JSON.parse(made.out)).to.deep.equal({ data: at('two'), keptAs: null });
    expect(await names(at('two'))).to.deep.equal(['www.fernhollow.example']);
    const copied = await run('backup', at('again.db'), '--data', at('two'), '--json');
    expect((JSON.parse(copied.out) as { bytes: number }).bytes).to.equal(fs.statSync(at('again.db')).size);
  });

  it('refuses what is no backup, is damaged or is not there, and leaves everything as it was', async () => {
    fs.writeFileSync(at('text.db'), 'Dear gardener,'.repeat(400));
    expect((await refusal(restore(at('two'), at('text.db'), NOW))).what).to.contain('no backup');
    const broken = fs.readFileSync(at('friday.db'));
    broken.fill(0x5a, 8192, 40_000);
    fs.writeFileSync(at('broken.db'), broken);
    expect((await refusal(restore(at('two'), at('broken.db'), NOW))).what).to.match(/damaged/);
    expect((await refusal(restore(at('two'), at('none.db'), NOW))).what).to.contain('no such file');
    expect((await refusal(backUp(at('nowhere'), at('x.db')))).what).to.contain('no database');
    expect((await run('restore', at('text.db'), '--data', at('two'))).code).to.equal(3);
    expect(await names(at('two'))).to.deep.equal(['www.fernhollow.example']);
  });

  it('does not replace a database on which a server works', async () => {
    const net = await import('node:net');
    const server = net.createServer().listen(0, '127.0.0.1');
    await new Promise((done) => server.once('listening', done));
    const { port } = server.address() as { port: number };
    // As another process would have noted itself.
    await claimFolder(at('two'), port);
    const note = JSON.parse(fs.readFileSync(at('two', 'server.json'), 'utf8')) as { pid: number };
    fs.writeFileSync(at('two', 'server.json'), JSON.stringify({ ...note, pid: process.ppid, port }));
    try {
      expect((await refusal(restore(at('two'), at('friday.db'), NOW))).what).to.contain('Another Keen Lens works');
    } finally {
      server.close();
      fs.rmSync(at('two', 'server.json'), { force: true });
    }
  });
});
