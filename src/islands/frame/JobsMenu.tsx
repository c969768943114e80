import { Menu } from '@mantine/core';
import type { JobRow } from '../../engine/store/jobs';
import { isOpen, useJobs } from '../state/jobs';
import { go } from '../state/location';
import { jobLine, jobShare } from '../sweep/jobWords';

/** What is under way, from any screen. */
export function JobsMenu() {
  const { jobs, cut } = useJobs();
  const open = jobs?.filter(isOpen) ?? [];
  const running = open.find((j) => j.state === 'running');
  const share = running && jobShare(running);
  return (
    <Menu position="bottom-end" width={380}>
      <Menu.Target>
        <button className="pick" title={`${open.length} running`}>
          Jobs{' '}
          {open.length > 0 && (
            <b>
              {open.length}
              {share !== undefined && ` · ${Math.floor(share * 100)} %`}
            </b>
          )}
        </button>
      </Menu.Target>
      <Menu.Dropdown>
        {cut && <Menu.Label>The connection to the server is cut; trying again.</Menu.Label>}
        {jobs?.length === 0 && <Menu.Label>No jobs yet.</Menu.Label>}
        {jobs?.slice(0, 8).map((j) => (
          <Menu.Item key={j.id} onClick={() => openJob(j)} disabled={j.siteId === null}>
            <div className="between">
              <span className="strong">{j.title}</span>
              <span className="soft">{j.state}</span>
            </div>
            <div className="soft small">{jobLine(j)}</div>
            {j.state === 'running' && <progress className="thin" max={1} value={jobShare(j)} />}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

function openJob(job: JobRow): void {
  if (job.siteId !== null) go(`/sites/${job.siteId}/jobs/${job.id}`);
}
