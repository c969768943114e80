import type { BrowserContextOptions } from 'playwright-core';
import type { Conditions } from '../../core/capture/capture';

/** A fresh profile with a screen, in which nothing but the page itself answers. */
export function contextFor(
  screen: Pick<Conditions, 'screenWidth' | 'screenHeight' | 'density' | 'touch'>,
  browserVersion: string,
  serviceWorkers: 'on' | 'off' = 'off',
): BrowserContextOptions {
  return {
    viewport: { width: screen.screenWidth, height: screen.screenHeight },
    deviceScaleFactor: screen.density,
    isMobile: screen.touch,
    hasTouch: screen.touch,
    userAgent: screen.touch ? phoneAgent(browserVersion) : undefined,
    serviceWorkers: serviceWorkers === 'on' ? 'allow' : 'block',
    acceptDownloads: false,
  };
}

/** What a phone's browser of this version calls itself, in the reduced form that all of them use by now. */
function phoneAgent(version: string): string {
  const major = version.split('.')[0] ?? '120';
  return `Mozilla/5.0 (Linux; Android 10; K) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/${major}.0.0.0 Mobile Safari/537.36`;
}
