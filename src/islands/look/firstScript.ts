/** Attribute of an island that has woken, with all that it listens to; and the event of the window that says so. */
export const AWAKE = 'data-awake';
export const AWAKE_EVENT = 'keen-lens:awake';

/**
 * What runs before anything is drawn. It stands in the page as it is: see `Base.astro` and `server/policy.ts`, which
 * allows this text alone.
 *
 * Sets the theme from what this browser has kept or the system prefers, and that of each document that is moved to before
 * it is shown. Notes the width of the window, for the server to draw the next page as wide. Keeps what
 * is clicked or typed while the islands still sleep, and hands it over when they are awake, in the order in which it was
 * done: no click is lost, and none overtakes a key that was pressed before. Lets the router change documents at once:
 * screens change without animation, and a browser that is asked for one takes a picture of the old screen first. Islands
 * that should live on but have not woken are left behind: they were drawn for this page, and would wake on another one.
 */
export const FIRST_SCRIPT = `(() => {
  const show = (shown) => {
    let kept = null;
    try { kept = localStorage.getItem('mantine-color-scheme-value'); } catch {}
    const dark = kept === 'dark' || (kept !== 'light' && matchMedia('(prefers-color-scheme: dark)').matches);
    shown.documentElement.setAttribute('data-mantine-color-scheme', dark ? 'dark' : 'light');
  };
  const noteWidth = () => { document.cookie = 'width=' + innerWidth + ';path=/;max-age=31536000;samesite=strict'; };
  let waiting = [];
  const asleep = (from) => from.querySelector('astro-island[client="load"]:not([${AWAKE}])') !== null;
  const keep = (event, run, ready) => {
    event.preventDefault();
    event.stopImmediatePropagation();
    waiting.push({ run, ready, until: Date.now() + 10000 });
    setTimeout(handOver, 10100);
  };
  const handOver = () => {
    while (waiting.length > 0) {
      const ready = waiting[0].ready();
      if (!ready && waiting[0].until > Date.now()) return;
      const { run } = waiting.shift();
      if (ready) run();
    }
  };
  addEventListener('click', (event) => {
    const { target } = event;
    if (!event.isTrusted || !(target instanceof Element) || target.closest('a[href], summary, label, input, select, textarea')) return;
    const island = target.closest('astro-island');
    const ready = () => island === null || island.hasAttribute('${AWAKE}');
    if (!ready() || waiting.length > 0) keep(event, () => target.dispatchEvent(new MouseEvent('click', { bubbles: true, cancelable: true })), ready);
  }, true);
  addEventListener('keydown', (event) => {
    const { target, key } = event;
    if (!event.isTrusted || event.ctrlKey || event.metaKey || event.altKey || !asleep(document)) return;
    if (key === 'Tab' || key === 'Shift' || (target instanceof Element && target.closest('a[href], button, summary, input, select, textarea'))) return;
    keep(event, () => (document.activeElement || document.body).dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true })), () => !asleep(document));
  }, true);
  document.addEventListener('astro:before-swap', ({ newDocument }) => {
    show(newDocument);
    for (const island of document.querySelectorAll('astro-island[data-astro-transition-persist]:not([${AWAKE}])'))
      island.removeAttribute('data-astro-transition-persist');
  });
  addEventListener('${AWAKE_EVENT}', () => setTimeout(handOver));
  document.startViewTransition = undefined;
  noteWidth();
  addEventListener('resize', noteWidth);
  show(document);
})();`;
