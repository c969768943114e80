import type { JobRow } from '../../engine/store/jobs';
import { isOpen, useJobs } from '../state/jobs';
import { go } from '../state/location';
import { DropMenu } from '../ui/DropMenu';
import { jobLine, jobShare } from '../sweep/jobWords';

/** Running jobs, from any screen. */
export function JobsMenu() {
  const { jobs, cut } = useJobs();
  const open = jobs?.filter(isOpen) ?? [];
  const running = open.find((j) => j.state === 'running');
  const share = running && jobShare(running);
  return (
    <DropMenu
      position="bottom-end"
      width={380}
      button={{
        className: 'pick',
        title: `${open.length} running`,
        children: (
          <>
            Jobs{' '}
            {open.length > 0 && (
              <b>
                {open.length}
                {share !== undefined && ` · ${Math.floor(share * 100)} %`}
              </b>
            )}
          </>
        ),
      }}
      entries={[
        ...(cut ? [{ key: 'cut', words: 'The connection to the server is cut; trying again.' }] : []),
        ...(jobs?.length === 0 ? [{ key: 'none', words: 'No jobs yet.' }] : []),
        ...(jobs ?? []).slice(0, 8).map((j) => ({
          key: j.id,
          disabled: j.siteId === null,
          onPick: () => openJob(j),
          content: (
            <>
              <div className="between">
                <span className="strong">{j.title}</span>
                <span className="soft">{j.state}</span>
              </div>
              <div className="soft small">{jobLine(j)}</div>
              {j.state === 'running' && <progress className="thin" max={1} value={jobShare(j)} />}
            </>
          ),
        })),
      ]}
    />
  );
}

function openJob(job: JobRow): void {
  if (job.siteId === null) return;
  go(job.kind === 'proof' ? `/sites/${job.siteId}/proofs` : `/sites/${job.siteId}/jobs/${job.id}`);
}
