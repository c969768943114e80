import { createHash } from 'node:crypto';
import islandScript from '../../node_modules/astro/dist/runtime/server/astro-island.prebuilt.js';
import loadScript from '../../node_modules/astro/dist/runtime/client/load.prebuilt.js';
import { FIRST_SCRIPT } from '../islands/look/firstScript';

/** The only scripts that may stand in a page itself: ours, and those with which Astro wakes its islands. */
const INLINE = [FIRST_SCRIPT, islandScript, loadScript];

const hashes = INLINE.map((text) => `'sha256-${createHash('sha256').update(text).digest('base64')}'`).join(' ');

/** Content Security Policy of every page of ours (Content Security Policy Level 3). */
export const POLICY = [
  "default-src 'self'",
  `script-src 'self' ${hashes}`,
  "style-src 'self' 'unsafe-inline'",
  "img-src 'self' data: blob:",
  "font-src 'self'",
  "worker-src 'self'",
  "connect-src 'self'",
  "object-src 'none'",
  "frame-ancestors 'none'",
  "base-uri 'self'",
  "form-action 'self'",
].join('; ');

/** For a report: nothing in it runs or is fetched, wherever it is opened. */
export const REPORT_POLICY =
  "sandbox; default-src 'none'; img-src data:; font-src data:; style-src 'unsafe-inline'; frame-ancestors 'self'";
