import { QueryClientProvider } from '@tanstack/react-query';
import { useEffect } from 'react';
import { createTheme, MantineProvider } from '@mantine/core';
import { CONCERNS } from '../core/checks/finding';
import { BenchPanel } from './frame/BenchPanel';
import { Rail } from './frame/Rail';
import { ShortcutSheet } from './frame/ShortcutSheet';
import { TopBar } from './frame/TopBar';
import { BriefScreen } from './brief/BriefScreen';
import { ChecksScreen } from './checks/ChecksScreen';
import { ConcernScreen } from './concern/ConcernScreen';
import { PageFactsScreen } from './facts/PageFactsScreen';
import { PageScreen } from './page/PageScreen';
import { PagesScreen } from './pages/PagesScreen';
import { SitesScreen } from './sites/SitesScreen';
import { JobScreen } from './sweep/JobScreen';
import { NewSweepScreen } from './sweep/NewSweepScreen';
import { TrustScreen } from './trust/TrustScreen';
import { Palette } from './frame/Palette';
import { PlanScreen } from './plan/PlanScreen';
import { VisitorEditor } from './visitors/VisitorEditor';
import { BenchProvider, useBench } from './state/bench';
import { queries } from './state/api';
import { go, useLocation } from './state/router';
import { useSession } from './state/session';
import { ErrorBox, Loading } from './ui/parts';
import { screenName } from './ui/screenName';
import { useKeys } from './ui/useKeys';

const theme = createTheme({
  fontFamily: '"Public Sans Variable", "Liberation Sans", sans-serif',
  fontFamilyMonospace: '"IBM Plex Mono", "Liberation Mono", monospace',
  primaryColor: 'ink',
  primaryShade: { light: 8, dark: 2 },
  colors: {
    ink: ['#f4f2ee', '#e4e0d8', '#cfd4d2', '#a9b0b0', '#848d8f', '#5d6567', '#4a5254', '#363e40', '#22292b', '#161b1c'],
  },
  defaultRadius: 6,
  components: { Tooltip: { defaultProps: { events: { hover: true, focus: true, touch: true }, openDelay: 250 } } },
});

/** The whole application: one island that moves between screens without reloading. */
export function App() {
  const { path } = useLocation();
  const site = /^\/sites\/(\d+)(\/.*)?$/.exec(path);
  return (
    <QueryClientProvider client={queries}>
      <MantineProvider theme={theme} defaultColorScheme="auto">
        {site ? (
          <BenchProvider key={site[1]} siteId={Number(site[1])}>
            <SiteFrame siteId={Number(site[1])} rest={site[2] ?? '/'} />
          </BenchProvider>
        ) : path === '/' ? (
          <>
            <SitesScreen />
            <VisitorEditor />
          </>
        ) : (
          <main className="lost">
            <h1 className="serif">Page not found</h1>
            <p>
              <a href="/">All sites</a>
            </p>
          </main>
        )}
        <ShortcutSheet />
      </MantineProvider>
    </QueryClientProvider>
  );
}

function SiteFrame({ siteId, rest }: { siteId: number; rest: string }) {
  const { benchOpen, setHelpOpen } = useSession();
  useKeys({ '?': () => setHelpOpen(true) });
  useTabTitle(rest);
  return (
    <>
      <a className="skip" href="#main">
        Skip to content
      </a>
      <TopBar />
      <div className={benchOpen ? 'frame' : 'frame bench-folded'}>
        <Rail rest={rest} />
        <main id="main" tabIndex={-1}>
          <Screen siteId={siteId} rest={rest} />
        </main>
        <BenchPanel />
      </div>
      <Palette />
      <VisitorEditor />
    </>
  );
}

/** The title of the browser tab: screen and site. */
function useTabTitle(rest: string): void {
  const { site, pages } = useBench();
  const page = Number(/^\/pages\/(\d+)$/.exec(rest)?.[1]);
  const own = pages.find((p) => p.captureId === page)?.title;
  const title = [own ?? screenName(rest), site.value?.name, 'Keen Lens'].filter(Boolean).join(' - ');
  useEffect(() => {
    document.title = title;
  }, [title]);
}

/** The screen that an address names; those of a sweep wait until it has been read. */
function Screen({ siteId, rest }: { siteId: number; rest: string }) {
  const { site, data, sweepId } = useBench();
  const number = (pattern: RegExp) => Number(pattern.exec(rest)?.[1]) || undefined;
  const job = number(/^\/jobs\/(\d+)$/);
  const facts = number(/^\/facts\/(\d+)$/);
  const page = number(/^\/pages\/(\d+)$/);
  const concern = CONCERNS.find((c) => rest === `/concerns/${c.id}`);
  if (site.error) return <ErrorBox error={site.error} retry={site.reload} />;
  if (rest === '/trust') return <TrustScreen />;
  if (rest === '/sweep') return <NewSweepScreen siteId={siteId} />;
  if (job) return <JobScreen key={job} siteId={siteId} jobId={job} />;
  if (facts) return <PageFactsScreen key={facts} id={facts} />;
  if (data.error) return <ErrorBox error={data.error} retry={data.reload} />;
  if (site.value && sweepId === undefined) return <NothingYet siteId={siteId} />;
  if (!data.value) return <Loading what="Reading the sweep" />;
  if (page) return <PageScreen key={page} id={page} />;
  if (rest === '/pages') return <PagesScreen />;
  if (data.value.pages.length === 0) return <NothingRecorded siteId={siteId} />;
  if (rest === '/plan') return <PlanScreen siteId={siteId} />;
  if (rest === '/checks') return <ChecksScreen siteId={siteId} />;
  if (concern) return <ConcernScreen key={concern.id} concern={concern.id} />;
  return <BriefScreen />;
}

function NothingYet({ siteId }: { siteId: number }) {
  return (
    <>
      <h1 className="serif">Not swept yet</h1>
      <p>
        <button className="button solid" onClick={() => go(`/sites/${siteId}/sweep`)}>
          Sweep the site
        </button>
      </p>
      <p className="soft">
        Or drop a HAR file on the <a href="/">Sites</a> page.
      </p>
    </>
  );
}

/** Findings and forecasts rest on recordings; without one there are only the facts of the pages. */
function NothingRecorded({ siteId }: { siteId: number }) {
  return (
    <>
      <h1 className="serif">No page of this sweep has been recorded by a browser</h1>
      <p>Findings and forecasts need recordings. Page facts are available.</p>
      <p className="tools">
        <button className="button solid" onClick={() => go(`/sites/${siteId}/pages?view=all`)}>
          Open the pages
        </button>
        <button className="link" onClick={() => go(`/sites/${siteId}/sweep`)}>
          Sweep again, with recordings
        </button>
      </p>
    </>
  );
}
