import { MantineProvider } from '@mantine/core';
import { QueryClientProvider } from '@tanstack/react-query';
import { useEffect, useRef, useState, type ComponentType, type ReactNode } from 'react';
import { AWAKE, AWAKE_EVENT } from '../look/firstScript';
import { theme } from '../look/theme';
import { makeQueries, queries } from '../state/api';
import { BenchProvider, useBench } from '../state/bench';
import { ErrorBox, Loading } from '../ui/parts';
import { useHref } from '../state/location';
import { lightSwap } from './lightSwap';
import { warmLinks } from './warmLinks';

if (typeof document !== 'undefined') {
  warmLinks();
  lightSwap();
}

/** What an island of a site needs before there is anything to show. */
type Needs = 'nothing' | 'site' | 'sweep' | 'recordings';

/**
 * Makes a component an island of its own: with the answers that its page was served with, the theme and, on a site's
 * screens, the bench. What it needs and does not have is said in its place.
 */
export function island<P extends object>(Inner: ComponentType<P>, needs: Needs = 'nothing'): ComponentType<P> {
  return function Island(props: P) {
    // On the server answers of one page must not reach another one.
    const place = useRef<HTMLDivElement>(null);
    // Effects of what is inside have run by now: it listens.
    useEffect(() => {
      place.current?.closest('astro-island')?.setAttribute(AWAKE, '');
      window.dispatchEvent(new Event(AWAKE_EVENT));
    }, []);
    const [client] = useState(() => (typeof document === 'undefined' ? makeQueries() : queries));
    return (
      <QueryClientProvider client={client}>
        {/* Its CSS variables stand in the head of each page, once. */}
        <MantineProvider theme={theme} defaultColorScheme="auto" withCssVariables={false} withGlobalClasses={false}>
          <BenchProvider>
            <div className="island" ref={place}>
              {needs === 'nothing' ? (
                <Inner {...props} />
              ) : (
                <Ready needs={needs}>
                  <Inner {...props} />
                </Ready>
              )}
            </div>
          </BenchProvider>
        </MantineProvider>
      </QueryClientProvider>
    );
  };
}

/** A screen once there is what it shows; until then what is missing. */
function Ready({ needs, children }: { needs: Exclude<Needs, 'nothing'>; children: ReactNode }) {
  const { site, data, sweepId } = useBench();
  if (site.error) return <ErrorBox error={site.error} retry={site.reload} />;
  if (needs === 'site') return children;
  if (data.error) return <ErrorBox error={data.error} retry={data.reload} />;
  if (site.value && sweepId === undefined) return <NothingYet />;
  if (!data.value) return <Loading what="Reading the sweep" />;
  if (needs === 'recordings' && data.value.pages.length === 0) return <NothingRecorded />;
  return children;
}

function NothingYet() {
  const { base } = useBench();
  const href = useHref();
  return (
    <>
      <h1 className="serif">Not swept yet</h1>
      <p>
        <a data-needs="auditor" className="button solid" href={href(`${base}/sweep`)}>
          Sweep the site
        </a>
      </p>
      <p className="soft">
        Or drop a HAR file on the <a href="/">Sites</a> page.
      </p>
    </>
  );
}

/** Findings and forecasts rest on recordings; without one there are only the facts of the pages. */
function NothingRecorded() {
  const { base } = useBench();
  const href = useHref();
  return (
    <>
      <h1 className="serif">No page of this sweep has been recorded by a browser</h1>
      <p>Findings and forecasts need recordings. Page facts are available.</p>
      <p className="tools">
        <a className="button solid" href={href(`${base}/pages?view=all`)}>
          Open the pages
        </a>
        <a data-needs="auditor" className="link" href={href(`${base}/sweep`)}>
          Sweep again, with recordings
        </a>
      </p>
    </>
  );
}
