import fs from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import zlib from 'node:zlib';
import type { TruthLink } from './site';
import type { KeptFix } from './variants';
import type { Visit } from './visit';

const here = path.dirname(fileURLToPath(import.meta.url));
export const CACHE = path.join(here, '../../.cache/accuracy');

/** Figures of several runs, in ms. */
export interface Sample {
  readonly runs: number;
  readonly fcpMs: number;
  readonly lcpMs: number;
  readonly loadMs: number;
  readonly ttfbMs: number;
  readonly cls: number;
  /** Half the range of the runs. */
  readonly fcpNoise: number;
  readonly lcpNoise: number;
  readonly hero: string;
  /** The second visit, where one was made. */
  readonly again?: { readonly fcpMs: number; readonly lcpMs: number; readonly loadMs: number };
}

export interface VariantTruth {
  readonly name: string;
  readonly fixes: readonly KeptFix[];
  readonly links: Partial<Record<TruthLink['id'], Sample>>;
}

/** What was measured of one page. The first variant is the page as it is. */
export interface PageTruth {
  readonly page: string;
  /** Of what the page and its variants are: a change makes old figures worthless. */
  readonly fingerprint: string;
  readonly measuredOn: string;
  readonly browser: string;
  readonly variants: readonly VariantTruth[];
}

const truthFile = (page: string) => path.join(here, 'truth', `${page}.json`);
const captureFile = (page: string) => path.join(here, 'captures', `${page}.har.br`);
/** With all bodies, for making variants; not kept in the repository. */
export const wholeCapture = (page: string) => path.join(CACHE, 'captures', `${page}.har`);

export function readTruth(page: string): PageTruth | undefined {
  const file = truthFile(page);
  return fs.existsSync(file) ? (JSON.parse(fs.readFileSync(file, 'utf8')) as PageTruth) : undefined;
}

/** Expected range of 2, 3, 4 ... draws of a normal distribution, in standard deviations. */
const RANGE_OF_DRAWS = [1.128, 1.693, 2.059, 2.326, 2.534, 2.704, 2.847];

/**
 * How far single runs of a measuring lie apart: their standard deviation as a share of their middle, on average. It is
 * told from their range, which grows with their number: three runs must not seem closer together than five.
 */
export function spreadOf(truth: PageTruth): number {
  const shares = truth.variants.flatMap((v) =>
    Object.values(v.links).flatMap(({ runs, fcpMs, lcpMs, fcpNoise, lcpNoise }) => {
      const range = RANGE_OF_DRAWS[Math.min(Math.max(runs, 2) - 2, RANGE_OF_DRAWS.length - 1)] as number;
      return [(2 * fcpNoise) / range / fcpMs, (2 * lcpNoise) / range / lcpMs];
    }),
  );
  return shares.reduce((sum, s) => sum + s, 0) / Math.max(1, shares.length);
}

/** Written beside and renamed, so that a crash leaves the old or the new. */
export function saveTruth(truth: PageTruth): void {
  const file = truthFile(truth.page);
  fs.mkdirSync(path.dirname(file), { recursive: true });
  fs.writeFileSync(file + '.part', JSON.stringify(truth, null, 1) + '\n');
  fs.renameSync(file + '.part', file);
}

export function readCapture(page: string): Buffer {
  return zlib.brotliDecompressSync(fs.readFileSync(captureFile(page)));
}

/** Keeps a capture in the repository without bodies of pictures and fonts, and without the screenshot. */
export function saveCapture(page: string, har: string): void {
  const light = JSON.stringify(JSON.parse(har), (key, value: unknown) => {
    if (key === 'screenshot' || key === 'serverIPAddress') return undefined;
    if (key !== 'content' || typeof value !== 'object' || value === null) return value;
    const { mimeType = '' } = value as { mimeType?: string };
    return /^(image|font)\//.test(mimeType) ? { ...value, text: undefined, encoding: undefined } : value;
  });
  const file = captureFile(page);
  fs.mkdirSync(path.dirname(file), { recursive: true });
  fs.writeFileSync(file, zlib.brotliCompressSync(light, { params: { [zlib.constants.BROTLI_PARAM_QUALITY]: 10 } }));
}

const middle = (list: readonly number[]) => {
  const sorted = [...list].sort((a, b) => a - b);
  const half = Math.floor(sorted.length / 2);
  return sorted.length % 2 ? (sorted[half] ?? 0) : ((sorted[half - 1] ?? 0) + (sorted[half] ?? 0)) / 2;
};
const halfRange = (list: readonly number[]) => (Math.max(...list) - Math.min(...list)) / 2;
const round = (n: number) => Math.round(n * 10) / 10;

/** Medians and spread of runs. */
export function sampleOf(runs: readonly (readonly Visit[])[]): Sample {
  const of = (pick: (v: Visit) => number, which = 0) => runs.flatMap((r) => (r[which] ? [pick(r[which])] : []));
  const again = of((v) => v.lcpMs, 1);
  return {
    runs: runs.length,
    fcpMs: round(middle(of((v) => v.fcpMs))),
    lcpMs: round(middle(of((v) => v.lcpMs))),
    loadMs: round(middle(of((v) => v.loadMs))),
    ttfbMs: round(middle(of((v) => v.ttfbMs))),
    cls: Math.round(middle(of((v) => v.cls)) * 1000) / 1000,
    fcpNoise: round(halfRange(of((v) => v.fcpMs))),
    lcpNoise: round(halfRange(of((v) => v.lcpMs))),
    hero: runs[0]?.[0]?.hero ?? '',
    ...(again.length > 0
      ? {
          again: {
            fcpMs: round(middle(of((v) => v.fcpMs, 1))),
            lcpMs: round(middle(again)),
            loadMs: round(middle(of((v) => v.loadMs, 1))),
          },
        }
      : {}),
  };
}

/** Within 3 % three runs are enough. */
export function agrees(runs: readonly (readonly Visit[])[]): boolean {
  const list = runs.map((r) => r[0]?.lcpMs ?? 0);
  const first = runs.map((r) => r[0]?.fcpMs ?? 0);
  const close = (l: number[]) => Math.max(...l) - Math.min(...l) <= 0.03 * middle(l);
  return close(list) && close(first);
}
