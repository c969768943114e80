import { lazy } from 'react';
import { ConcernFindings } from '../concern/ConcernFindings';
import { island } from '../frame/island';
import { useBench } from '../state/bench';
import { useLocation } from '../state/location';
import { Later } from '../ui/Later';
import { Loading } from '../ui/parts';
import { SetTo } from '../ui/SetTo';
import { Entrances } from './Entrances';

const VIEWS = {
  ways: 'Entrances',
  lists: 'Outside lists',
  rules: 'Redirect rules',
  move: 'Move to HTTPS',
} as const;
type View = keyof typeof VIEWS;

const ListsView = lazy(() => import('./ListsView'));
const RulesView = lazy(() => import('./RulesView'));
const MoveView = lazy(() => import('./MoveView'));

/** HTTPS coverage: every entrance, lists from elsewhere, redirect rules, the move; and findings by cause. */
function HttpsScreen() {
  const { query } = useLocation();
  const { data } = useBench();
  const asked = query.get('view') as View | null;
  const view: View = asked !== null && asked in VIEWS ? asked : 'ways';
  const waiting = (
    <>
      <Loading what="Opening" />
      <p className="without-script">This view needs JavaScript; the entrances and the findings do not.</p>
    </>
  );
  return (
    <>
      <h1 className="serif">HTTPS coverage</h1>
      <p className="soft lead">Does every way into this site end, in one permanent redirect, at one secure address?</p>
      <div className="tabs" role="tablist">
        {Object.entries(VIEWS).map(([id, name]) => (
          <SetTo
            key={id}
            role="tab"
            aria-selected={id === view}
            className={id === view ? 'on' : ''}
            changes={{ view: id === 'ways' ? null : id, from: null }}
          >
            {name}
          </SetTo>
        ))}
      </div>
      {view === 'ways' && <Entrances />}
      {view === 'ways' && data.value && data.value.pages.length > 0 && (
        <>
          <h2>Findings by cause</h2>
          <ConcernFindings concern="https" />
        </>
      )}
      <Later fallback={view === 'ways' ? undefined : waiting}>
        {view === 'lists' && <ListsView />}
        {view === 'rules' && <RulesView />}
        {view === 'move' && <MoveView />}
      </Later>
    </>
  );
}

export default island(HttpsScreen, 'site');
