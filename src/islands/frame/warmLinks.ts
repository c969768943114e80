import type { TransitionBeforePreparationEvent } from 'astro:transitions/client';

/** So long the pointer has to rest on a link before what it leads to is asked for, in ms. */
const RESTS_MS = 60;

/** What the link under the pointer leads to, asked for already. */
interface Warm {
  readonly href: string;
  readonly stop: AbortController;
  readonly answer: Promise<Response>;
}

let warm: Warm | undefined;
let resting: ReturnType<typeof setTimeout> | undefined;

/**
 * Asks for the screen behind a link while the pointer rests on it, so that a click finds it ready. It is forgotten as soon
 * as the pointer leaves or a key is pressed: what is shown is never older than that.
 */
export function warmLinks(): void {
  document.addEventListener('pointerover', ({ target }) => {
    const link = target instanceof Element ? target.closest('a') : null;
    if (link?.href === warm?.href && link) return;
    forget();
    if (link && leadsToScreen(link)) resting = setTimeout(() => warmUp(link.href), RESTS_MS);
  });
  document.documentElement.addEventListener('pointerleave', forget);
  document.addEventListener('keydown', forget, true);
  document.addEventListener('astro:before-preparation', (event) => {
    const move = event as TransitionBeforePreparationEvent;
    const ready = warm;
    if (!ready || ready.href !== move.to.href || move.formData) return forget();
    warm = undefined;
    const load = move.loader;
    move.loader = () => {
      // The router's loader begins by fetching the document: that is answered by what is here.
      const { fetch } = window;
      window.fetch = (input, init) => {
        window.fetch = fetch;
        return input === ready.href ? ready.answer.catch(() => fetch(input, init)) : fetch(input, init);
      };
      return load();
    };
  });
}

function warmUp(href: string): void {
  const stop = new AbortController();
  const answer = fetch(href, { signal: stop.signal });
  answer
    .then((response) => response.clone().text())
    .then(askForFiles)
    // Nobody may come for it.
    .catch(() => undefined);
  warm = { href, stop, answer };
}

/** What a screen names that it cannot be drawn or wake without, and the kind of link by which it is asked for ahead. */
const FILES = [
  { named: / component-url="(\/_astro\/[^"]+)"/g, rel: 'modulepreload' },
  { named: /<link rel="stylesheet" href="(\/_astro\/[^"]+)"/g, rel: 'preload' },
] as const;

/** Asks for the modules and the stylesheets of a screen, each once (HTML, 4.6.8.12 and 4.6.8.20). */
function askForFiles(html: string): void {
  for (const { named, rel } of FILES)
    for (const [, href = ''] of html.matchAll(named)) {
      if (document.querySelector(`link[href="${href}"], astro-island[component-url="${href}"]`)) continue;
      const link = document.createElement('link');
      Object.assign(link, { rel, href, ...(rel === 'preload' && { as: 'style' }) });
      document.head.append(link);
    }
}

function forget(): void {
  clearTimeout(resting);
  warm?.stop.abort();
  warm = undefined;
}

/** Whether the router would go there: a screen of this server, in this tab, and not the one that is shown. */
function leadsToScreen(link: HTMLAnchorElement): boolean {
  const to = new URL(link.href, location.href);
  return (
    to.origin === location.origin &&
    !link.hasAttribute('download') &&
    (link.target === '' || link.target === '_self') &&
    !to.pathname.startsWith('/api/') &&
    to.pathname !== location.pathname
  );
}
