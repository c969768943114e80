import { createTheme, MantineProvider } from '@mantine/core';
import { BenchPanel } from './frame/BenchPanel';
import { Rail } from './frame/Rail';
import { ShortcutSheet } from './frame/ShortcutSheet';
import { TopBar } from './frame/TopBar';
import { BriefScreen } from './brief/BriefScreen';
import { ConcernScreen } from './concern/ConcernScreen';
import { PageScreen } from './page/PageScreen';
import { PagesScreen } from './pages/PagesScreen';
import { SitesScreen } from './sites/SitesScreen';
import { BenchProvider, useBench } from './state/bench';
import { useLocation } from './state/router';
import { useSession } from './state/session';
import { ErrorBox, Loading } from './ui/parts';
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
    <MantineProvider theme={theme} defaultColorScheme="auto">
      {site ? (
        <BenchProvider key={site[1]} siteId={Number(site[1])}>
          <SiteFrame rest={site[2] ?? '/'} />
        </BenchProvider>
      ) : path === '/' ? (
        <SitesScreen />
      ) : (
        <main className="lost">
          <h1 className="serif">There is nothing here</h1>
          <p>
            <a href="/">Back to the sites</a>
          </p>
        </main>
      )}
      <ShortcutSheet />
    </MantineProvider>
  );
}

function SiteFrame({ rest }: { rest: string }) {
  const { site, data, sweepId } = useBench();
  const { benchOpen, setHelpOpen } = useSession();
  useKeys({ '?': () => setHelpOpen(true) });
  const error = site.error ?? data.error;
  const page = /^\/pages\/(\d+)$/.exec(rest);
  const concern = /^\/concerns\/(https|mixed|hero|weight|blocking)$/.exec(rest);
  return (
    <>
      <TopBar />
      <div className={benchOpen ? 'frame' : 'frame bench-folded'}>
        <Rail rest={rest} />
        <main>
          {error ? (
            <ErrorBox error={error} retry={site.error ? site.reload : data.reload} />
          ) : site.value && sweepId === undefined ? (
            <p className="soft">
              Nothing has been captured for this site yet. Drop a HAR file on the <a href="/">Sites</a> page.
            </p>
          ) : !data.value ? (
            <Loading what="Reading the sweep" />
          ) : page ? (
            <PageScreen key={page[1]} id={Number(page[1])} />
          ) : concern ? (
            <ConcernScreen key={concern[1]} concern={concern[1] as 'hero'} />
          ) : rest === '/pages' ? (
            <PagesScreen />
          ) : (
            <BriefScreen />
          )}
        </main>
        <BenchPanel />
      </div>
    </>
  );
}
