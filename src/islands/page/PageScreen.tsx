import { lazy, useEffect, useMemo, useState } from 'react';
import { visitorWith } from '../../core/load/visitors';
import type { PageStory } from '../../core/plan/story';
import type { StoryAnswer } from '../../workers/benchMessages';
import { SplitChart } from '../charts/SplitChart';
import { StoryChart } from '../charts/story/StoryChart';
import { FieldLine } from '../field/FieldLine';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { go, setQuery, useLocation } from '../state/location';
import type { CaptureView, ShownFinding } from '../state/types';
import { count, ms } from '../ui/format';
import { ErrorBox, Kbd, Loading } from '../ui/parts';
import { useKeys } from '../ui/useKeys';
import { useWidth } from '../ui/useWidth';
import { FactsView } from './FactsView';
import { FindingsView } from './FindingsView';
import { HeroPictures } from './HeroPicture';
import { LoadsView } from './LoadsView';
import { storyPath } from './storyPath';
import { Later } from '../ui/Later';
import { SetTo } from '../ui/SetTo';
import { To } from '../ui/To';
import { island } from '../frame/island';

const TABS = ['findings', 'source', 'loads', 'facts'] as const;
type Tab = (typeof TABS)[number];

// Its editor is most of a page's code: it comes with the tab.
const SourceView = lazy(() => import('./SourceView'));

/** One page: what its hero waits for, now and with the bench; its findings, source and loads. */
export function PageScreen({ id }: { id: number }) {
  const bench = useBench();
  const { query } = useLocation();
  const view = useResource<CaptureView>(`/api/captures/${id}?source=false`);
  const { ref, width } = useWidth(340);
  const { story, ofBench } = useStory(id);
  const benchEmpty = bench.chosen.length === 0 || !ofBench;
  const [finding, setFinding] = useState<ShownFinding>();
  const asked = query.get('tab') as Tab | null;
  const tab: Tab = asked && TABS.includes(asked) ? asked : 'findings';
  const base = bench.base;
  const at = bench.pages.findIndex((p) => p.captureId === id);
  const move = (by: number) => {
    const next = bench.pages[(at + by + bench.pages.length) % bench.pages.length];
    if (next) go(`${base}/pages/${next.captureId}?tab=${tab}`);
  };
  useKeys({ '[': () => move(-1), ']': () => move(1) });
  const elsewhere = useOtherCapture(view.value, id, base);
  if (view.error) return <ErrorBox error={view.error} retry={view.reload} />;
  const v = view.value;
  const page = bench.pages.find((p) => p.captureId === id);
  if (v && elsewhere)
    return (
      <p className="soft">
        This capture is not part of what is shown: {elsewhere}{' '}
        <To className="link" to={`${base}/pages`}>
          All recorded pages
        </To>
      </p>
    );
  if (!v || !page) return <Loading what="Reading the capture" />;
  return (
    <div ref={ref}>
      <div className="page-head">
        <h1 className="serif">{page.title}</h1>
        <span className="mono soft">{v.row.page}</span>
        <span className="soft right">
          <button className="key" onClick={() => move(-1)} aria-label="Previous page">
            <Kbd>[</Kbd>
          </button>{' '}
          <button className="key" onClick={() => move(1)} aria-label="Next page">
            <Kbd>]</Kbd>
          </button>{' '}
          {at + 1} of {bench.pages.length}
        </span>
      </div>
      <p className="soft lead">
        {story ? <HeroSentence v={v} story={story} benchEmpty={benchEmpty} /> : 'Simulating …'}
      </p>
      <FieldLine row={bench.data.value?.pages.find((p) => p.row.id === id)?.field} />
      {story && story.now.heroPlace > 0 && (
        <SplitChart now={story.now.split} after={benchEmpty ? undefined : story.after.split} width={width} />
      )}
      {story && (
        <StoryChart
          key={id}
          story={story}
          graph={story.graph}
          width={width}
          benchEmpty={benchEmpty}
          focus={tab === 'findings' ? finding?.evidence.load?.index : undefined}
        />
      )}
      <div className="page-body">
        <HeroPictures
          view={v}
          finding={tab === 'findings' ? finding : undefined}
          open={(device) => bench.setVisitor(visitorWith(device).id)}
        />
        <div className="page-tabs">
          <div className="tabs" role="tablist">
            {TABS.map((t) => (
              <SetTo
                key={t}
                role="tab"
                aria-selected={t === tab}
                className={t === tab ? 'on' : ''}
                changes={{ tab: t }}
              >
                {tabName(t, v)}
              </SetTo>
            ))}
          </div>
          {tab === 'findings' && (
            <FindingsView
              view={v}
              alone={ofBench ? story?.alone : undefined}
              showSource={(line) => setQuery({ tab: 'source', line: String(line) })}
              onAt={setFinding}
              asked={query.get('finding') ?? undefined}
              onChanged={() => (view.reload(), bench.data.reload())}
            />
          )}
          {tab === 'source' && (
            <Later fallback={<Loading what="Reading the source" />}>
              <SourceView id={id} line={Number(query.get('line')) || undefined} />
            </Later>
          )}
          {tab === 'loads' && <LoadsView view={v} story={story} />}
          {tab === 'facts' && <FactsView view={v} story={story} />}
        </div>
      </div>
    </div>
  );
}

function tabName(t: Tab, v: CaptureView): string {
  if (t === 'findings') return `Findings ${v.findings.filter((f) => !f.muted).length}`;
  if (t === 'loads') return `Loads ${v.loads.length}`;
  return t === 'source' ? 'Source' : 'Facts';
}

/**
 * The story of this page for visitor and bench, made anew when either changes; until that of the bench is there, the one
 * without fixes.
 */
function useStory(id: number): { story?: StoryAnswer; ofBench: boolean } {
  const bench = useBench();
  const plain = useResource<PageStory>(storyPath(id, bench.visitor.id));
  const [story, setStory] = useState<StoryAnswer>();
  const { story: ask, pages, ready } = bench;
  useEffect(() => {
    if (!ready || !pages.some((p) => p.captureId === id)) return;
    let stale = false;
    void ask(id).then((s) => !stale && setStory(s));
    return () => {
      stale = true;
    };
  }, [ask, id, pages, ready]);
  const first = useMemo(
    () => plain.value && { ...plain.value, after: plain.value.now, afterGraph: plain.value.graph, why: [], alone: {} },
    [plain.value],
  );
  if (story?.captureId === id) return { story, ofBench: true };
  return { story: first?.captureId === id ? first : undefined, ofBench: false };
}

/**
 * A capture that the lists of this visitor and sweep do not hold is looked for where it is: in its own sweep, with the
 * other device, or as a newer recording of the same page. Says why when it is nowhere.
 */
function useOtherCapture(v: CaptureView | undefined, id: number, base: string): string | undefined {
  const { pages, data, site, sweepId } = useBench();
  const ready = v !== undefined && data.value !== undefined && !data.loading;
  const missing = ready && !pages.some((p) => p.captureId === id);
  const ofOtherSweep =
    missing && v.row.sweepId !== sweepId && (site.value?.sweeps.some((s) => s.id === v.row.sweepId) ?? false);
  const same = missing ? data.value?.pages.find((p) => p.row.page === v.row.page && p.row.id !== id) : undefined;
  useEffect(() => {
    if (!missing || !v) return;
    if (ofOtherSweep) setQuery({ sweep: String(v.row.sweepId) });
    else if (same) go(`${base}/pages/${same.row.id}${window.location.search}`);
  }, [missing, ofOtherSweep, same, v, base]);
  if (!missing || ofOtherSweep || same) return undefined;
  return v.row.device === data.value?.device
    ? 'it was replaced by a newer recording.'
    : `the page was recorded as ${v.row.device} only.`;
}

function HeroSentence({ v, story, benchEmpty }: { v: CaptureView; story: StoryAnswer; benchEmpty: boolean }) {
  const { now, after } = story;
  if (now.heroPlace === 0) {
    return (
      <>
        The hero is text ({v.hero.label ?? 'text'}), painted at {ms(now.milestones.lcpMs)}
        {benchEmpty ? '.' : `, with the bench at ${ms(after.milestones.lcpMs)}.`}
      </>
    );
  }
  const found = now.split.serverMs + now.split.untilFoundMs;
  return (
    <>
      The hero is request {now.heroPlace} of {now.milestones.requests}, discovered at {ms(found)}
      {benchEmpty
        ? '.'
        : `; with the bench it is request ${after.heroPlace}, discovered at ${ms(after.split.serverMs + after.split.untilFoundMs)}.`}{' '}
      {story.why.join(' ')} {count(v.findings.filter((f) => !f.muted).length, 'finding')}.
    </>
  );
}

export default island(PageScreen, 'sweep');
