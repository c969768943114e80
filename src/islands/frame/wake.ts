import { createElement, startTransition, type ComponentType } from 'react';
import { hydrateRoot } from 'react-dom/client';
import { takeFirstAnswers } from '../state/api';

const woken = new WeakSet<HTMLElement>();

/**
 * Wakes an island in its place, for Astro: `element` is its `astro-island` as drawn by the server.
 *
 * It waits for the end of the document, where the answers stand that it was drawn from.
 *
 * One that is left while it wakes is of no interest to anybody: React recovers from it, and what it says of that is not
 * reported. One that is awake and carried to the next screen is asked again, and is awake already.
 */
export default function wake(element: HTMLElement) {
  return async (Component: ComponentType<Record<string, unknown>>, props: Record<string, unknown>): Promise<void> => {
    await parsed();
    takeFirstAnswers();
    if (!element.hasAttribute('ssr') || woken.has(element)) return;
    woken.add(element);
    startTransition(() => {
      const root = hydrateRoot(element, createElement(Component, props), {
        identifierPrefix: element.getAttribute('prefix') ?? undefined,
        onRecoverableError: (error) => {
          if (element.isConnected) reportError(error);
        },
      });
      element.addEventListener('astro:unmount', () => root.unmount(), { once: true });
    });
  };
}

/** Settles once the parser is done with the document (HTML, 13.2.7). */
function parsed(): Promise<void> | undefined {
  if (document.readyState !== 'loading') return undefined;
  return new Promise((done) => document.addEventListener('readystatechange', () => done(), { once: true }));
}
