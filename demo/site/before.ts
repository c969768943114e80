import { MEDIA } from './hosts';
import type { DemoPage } from './pages';

/** What has changed on a page since three weeks ago: words of today, and what stood there then. */
const CHANGES: Readonly<Record<string, readonly (readonly [today: string, then: string])[]>> = {
  // The hero was eager: that it is lazy is new.
  '/plant-sale/': [[' loading="lazy" alt="Tables', ' alt="Tables']],
  // The map came by https: that it is refused is new.
  '/visit/': [['"http://maps.lanefinder.example/widget/"', '"https://maps.lanefinder.example/widget/"']],
  // A script in the head that nothing used is gone since.
  '/talks/': [
    [
      '  <script src="/js/menu.js"></script>',
      '  <script src="/js/menu.js"></script>\n  <script src="/js/carousel.js"></script>',
    ],
  ],
  // A picture by http, and a hero of no priority, are mended since.
  '/membership/': [
    [' fetchpriority="high"', ''],
    [`<img src="${MEDIA}/p/leaf-1.jpg"`, '<img src="http://media.fernhollow.example/p/leaf-1.jpg"'],
  ],
};

/** A page of the garden as it was three weeks before. @throws Error when what changed is no longer in it */
export function asItWas(page: DemoPage): DemoPage {
  const html = (CHANGES[page.path] ?? []).reduce((text, [today, then]) => {
    if (!text.includes(today)) throw new Error(`${page.path} has no ${today}`);
    return text.replace(today, then);
  }, page.html);
  return { ...page, html };
}
