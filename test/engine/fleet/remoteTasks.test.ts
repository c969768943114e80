import { expect } from 'chai';
import { addRemoteTask, remoteTaskToDo, sendRemoteTask } from '../../../src/engine/store/fleet/remoteTasks';
import { addJob, claimJob } from '../../../src/engine/store/jobs';
import { addSite } from '../../../src/engine/store/sites';
import { openStore, type Store } from '../../../src/engine/store/store';
import { tempFolder } from '../../fixtures/temp';

describe('engine/store/fleet/remoteTasks', () => {
  const { folder, remove } = tempFolder('remote-tasks');
  let store: Store;
  before(async () => (store = await openStore(folder)));
  after(async () => {
    await store.destroy();
    remove();
  });

  it('holds back what asks a host that is asked already, and sends again what a crash has left', async () => {
    const site = await addSite(store, 'Garden', 'https://www.fernhollow.example/');
    const job = async () => {
      const id = await addJob(store, { kind: 'probe', title: 'Entrances', input: {}, siteId: site.id });
      await claimJob(store, id, 'test');
      return id;
    };
    const probe = { kind: 'probe', title: 'www.fernhollow.example', host: 'www.fernhollow.example' } as const;
    const first = { jobId: await job(), ...probe };
    const second = await addRemoteTask(store, { jobId: await job(), ...probe });
    const task = await addRemoteTask(store, first);
    expect(await sendRemoteTask(store, task, 1)).to.equal(true);
    expect(await sendRemoteTask(store, second, 1)).to.equal(false);
    expect((await remoteTaskToDo(store, task.id))?.id).to.equal(task.id);
    // The same job after a crash: its own task must not stand in its way.
    const again = await addRemoteTask(store, first);
    expect(again.id).to.equal(task.id);
    expect(await sendRemoteTask(store, again, 1)).to.equal(true);
    expect(await sendRemoteTask(store, second, 2)).to.equal(true);
  });
});
