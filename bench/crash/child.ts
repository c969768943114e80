import { nextJobs } from '../../src/engine/store/jobs';
import { openStore } from '../../src/engine/store/store';
import { runTask } from '../../src/engine/workers/jobTask';

const data = process.argv[2] ?? '';
process.env.KEEN_LENS_DATA = data;
process.stdout.write('begun\n');
const store = await openStore(data);
for (let jobs = await nextJobs(store); jobs.length > 0; jobs = await nextJobs(store))
  for (const job of jobs) await runTask({ data, id: job.id, kind: job.kind, owner: `${process.pid}:bench` });
await store.destroy();
process.exit(0);
