import type { CDPSession } from 'playwright-core';

/** How long a page that has stopped loading may begin anew, in ms: pages come one after the other, too. */
const GRACE_MS = 500;

/**
 * Watches whether a tab's page stops loading for good without a load event. A script that asks for another page stops the
 * parser; where what comes is a download, or an answer without content (204), the page stays as it is (HTML, 7.4.5).
 * @returns `stopped`, which settles when that happens, and never where it does not
 */
export async function watchLoading(session: CDPSession): Promise<{ readonly stopped: Promise<void> }> {
  const { frameTree } = await session.send('Page.getFrameTree');
  const main = frameTree.frame.id;
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
  const stopped = new Promise<void>((done) => {
    session.on('Page.frameStoppedLoading', ({ frameId }) => {
      if (frameId !== main || !asked) return;
      clearTimeout(timer);
      timer = setTimeout(done, GRACE_MS);
    });
  });
  return { stopped };
}
