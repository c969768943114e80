import type { CDPSession } from 'playwright-core';

/** How long a page that has stopped loading may begin anew, in ms: pages come one after the other, too. */
const GRACE_MS = 500;

/**
 * Settles when the page of a tab stops loading for good without a load event, and never where it does not. A script that
 * asks for another page stops the parser; where what comes is a download, or an answer without content (204), the page
 * stays as it is (HTML, 7.4.5).
 * @param main id of the tab's own frame
 */
export function stoppedLoading(session: CDPSession, main: string): Promise<void> {
  let asked = false;
  let timer: NodeJS.Timeout | undefined;
  session.on('Page.frameNavigated', ({ frame }) => {
    if (frame.id === main) asked = false;
  });
  session.on('Page.frameRequestedNavigation', ({ frameId }) => {
    if (frameId === main) asked = true;
  });
  session.on('Page.frameStartedLoading', ({ frameId }) => {
    if (frameId === main) clearTimeout(timer);
  });
  return new Promise((done) => {
    session.on('Page.frameStoppedLoading', ({ frameId }) => {
      if (frameId !== main || !asked) return;
      clearTimeout(timer);
      timer = setTimeout(done, GRACE_MS);
    });
  });
}
