/**
 * Makes it light for the browser to put the next screen in the place of the shown one.
 *
 * Stylesheets stay: each is for names of its own, and taking one away has all fonts and styles worked out anew. Focus on
 * what goes away is given up first: otherwise the browser lays the old screen out once more, under the new stylesheets.
 */
export function lightSwap(): void {
  document.addEventListener('astro:before-swap', ({ newDocument }) => {
    const focused = document.activeElement;
    if (focused instanceof HTMLElement && !focused.closest('[data-astro-transition-persist]')) focused.blur();
    for (const sheet of document.head.querySelectorAll('link[rel="stylesheet"]')) {
      const address = sheet.getAttribute('href') ?? '';
      // The router keeps a sheet that the new document names too.
      if (!newDocument.head.querySelector(`link[rel="stylesheet"][href="${CSS.escape(address)}"]`))
        newDocument.head.append(newDocument.importNode(sheet));
    }
  });
}
