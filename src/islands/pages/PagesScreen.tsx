import { useBench } from '../state/bench';
import { useLocation } from '../state/location';
import { AllPages } from './AllPages';
import { CapturedPages } from './CapturedPages';
import { SetTo } from '../ui/SetTo';
import { To } from '../ui/To';
import { island } from '../frame/island';

/** The pages of a sweep: those a browser recorded, and all that were visited. */
export function PagesScreen() {
  const { site, sweepId, pages, base } = useBench();
  const { query } = useLocation();
  const sweep = site.value?.sweeps.find((s) => s.id === sweepId);
  const visited = sweep?.addresses ?? 0;
  const view = query.get('view') ?? (visited > pages.length ? 'all' : 'captured');
  const tab = (id: string, name: string, n: number) => (
    <SetTo role="tab" aria-selected={view === id} className={view === id ? 'on' : ''} changes={{ view: id }}>
      {name} <span className="soft normal">{n.toLocaleString('en-GB')}</span>
    </SetTo>
  );
  return (
    <>
      <h1 className="serif">Pages</h1>
      <div className="tabs" role="tablist">
        {tab('all', 'All pages', visited)}
        {tab('captured', 'Recorded by a browser', pages.length)}
      </div>
      {view === 'captured' ? (
        pages.length > 0 ? (
          <CapturedPages />
        ) : (
          <p className="soft">No page of this sweep has been recorded by a browser.</p>
        )
      ) : visited === 0 || sweepId === undefined ? (
        <p className="soft">
          This sweep was made of capture files: nothing is known of pages that are not among them.{' '}
          <To data-needs="auditor" className="link" to={`${base}/sweep`}>
            Sweep the site
          </To>{' '}
          to see every page.
        </p>
      ) : (
        <AllPages key={sweepId} sweepId={sweepId} all={visited} />
      )}
    </>
  );
}

export default island(PagesScreen, 'sweep');
