import { lazy } from 'react';
import { island } from '../frame/island';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { useLocation } from '../state/location';
import { inWords, count } from '../ui/format';
import { Later } from '../ui/Later';
import { ErrorBox, Loading } from '../ui/parts';
import { SetTo } from '../ui/SetTo';
import { ChangesView } from './ChangesView';
import { LimitsView } from './LimitsView';
import { NoticesView } from './NoticesView';
import { SchedulesView } from './SchedulesView';
import { watchPath, type WatchAnswer } from './watchPath';

const VIEWS = {
  notices: 'Notices',
  schedules: 'Schedules',
  limits: 'Limits',
  changes: 'Page changes',
  history: 'History',
  messages: 'Where notices go',
} as const;
type View = keyof typeof VIEWS;

const HistoryView = lazy(() => import('./HistoryView'));
const MessagesView = lazy(() => import('./MessagesView'));

/** What happens by itself: schedules, limits, page changes, and who is told of what. */
function WatchScreen() {
  const { siteId } = useBench();
  const { query } = useLocation();
  const asked = query.get('view') as View | null;
  const view: View = asked !== null && asked in VIEWS ? asked : 'notices';
  const watch = useResource<WatchAnswer>(watchPath(siteId));
  const { value } = watch;
  return (
    <>
      <h1 className="serif">Watch</h1>
      <p className="serif-text lead">{value ? sentenceOf(value) : 'What happens by itself, and who is told.'}</p>
      <div className="tabs" role="tablist">
        {Object.entries(VIEWS).map(([id, name]) => (
          <SetTo
            key={id}
            role="tab"
            data-needs={id === 'messages' ? 'auditor' : undefined}
            aria-selected={id === view}
            className={id === view ? 'on' : ''}
            changes={{ view: id === 'notices' ? null : id }}
          >
            {name}
            {id === 'notices' && value && value.unread > 0 && <b> {value.unread}</b>}
          </SetTo>
        ))}
      </div>
      {watch.error && <ErrorBox error={watch.error} retry={watch.reload} />}
      {!value && watch.loading && <Loading what="Reading the watch" />}
      {value && view === 'notices' && <NoticesView watch={value} reload={watch.reload} />}
      {value && view === 'schedules' && <SchedulesView watch={value} reload={watch.reload} />}
      {value && view === 'limits' && <LimitsView watch={value} reload={watch.reload} />}
      {value && view === 'changes' && <ChangesView watch={value} reload={watch.reload} />}
      <Later fallback={view === 'history' || view === 'messages' ? <Loading what="Opening" /> : undefined}>
        {view === 'history' && <HistoryView />}
        {view === 'messages' && value && <MessagesView watch={value} reload={watch.reload} />}
      </Later>
    </>
  );
}

/** The state of the watch in one sentence or two. */
function sentenceOf({ schedules, limits, pages, unread }: WatchAnswer): string {
  const on = schedules.filter((s) => s.on);
  const broken = limits.filter((l) => l.results[0]?.broken).length;
  if (on.length + limits.length + pages.length === 0)
    return 'Nothing is watched yet. A schedule sweeps the site by itself; limits say when somebody has to look.';
  const parts = [
    on.length > 0 ? `${inWords(on.length)} ${on.length === 1 ? 'schedule runs' : 'schedules run'}` : 'No schedule runs',
    limits.length === 0
      ? 'no limit is set'
      : broken > 0
        ? `${broken} of ${count(limits.length, 'limit')} ${broken === 1 ? 'is' : 'are'} broken`
        : limits.length === 1
          ? 'the one limit holds'
          : `all ${limits.length} limits hold`,
    ...(pages.length > 0 ? [`${count(pages.length, 'page is', 'pages are')} watched for changes`] : []),
    ...(unread > 0 ? [`${count(unread, 'notice is', 'notices are')} new`] : []),
  ];
  return `${parts.slice(0, -1).join(', ')}${parts.length > 1 ? ', and ' : ''}${parts.at(-1) ?? ''}.`;
}

export default island(WatchScreen, 'site');
