import type { BrowserType } from 'playwright-core';

/** What drives Chromium. Read when it is needed: it takes most of a second, and no screen waits for it. */
export const driver = async (): Promise<BrowserType> => (await import('playwright-core')).chromium;
