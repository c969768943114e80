import { BROWSER } from '../../src/core/load/browser';
import { CONGESTION } from '../../src/core/load/congestion';
import { NETWORK } from '../../src/core/load/networkConstants';
import { compare, type Judged } from './compare';

/** A constant of the model, with the values between which it may lie. */
export interface Constant {
  readonly name: string;
  readonly least: number;
  readonly most: number;
  get(): number;
  set(value: number): void;
}

function constant<T extends object>(
  group: string,
  of: T,
  key: keyof T & string,
  least: number,
  most: number,
): Constant {
  return {
    name: `${group}.${key}`,
    least,
    most,
    get: () => of[key] as number,
    set: (value) => {
      (of as Record<string, number>)[key] = value;
    },
  };
}

/** What is fitted. Constants that a standard or the browser's own behaviour states are not. */
export const FITTED: readonly Constant[] = [
  // Where timelines show it: from the first bytes to the first request.
  constant('browser', BROWSER, 'commitMs', 28, 36),
  constant('browser', BROWSER, 'commitFixedMs', 5, 15),
  constant('browser', BROWSER, 'firstFrameMs', 0, 60),
  constant('browser', BROWSER, 'requestMs', 0.1, 3),
  constant('browser', BROWSER, 'requestFixedMs', 0, 20),
  constant('browser', BROWSER, 'deliverMs', 0.1, 5),
  constant('browser', BROWSER, 'styleMsPerByte', 0.00001, 0.0001),
  constant('browser', BROWSER, 'runOverheadMs', 0, 8),
  constant('browser', BROWSER, 'clockFactor', 1, 1.6),
  constant('browser', BROWSER, 'presentMs', 4, 80),
  constant('browser', BROWSER, 'presentFixedMs', 0, 40),
  constant('browser', BROWSER, 'drawMsPerMillion', 0, 60),
  constant('browser', BROWSER, 'drawFixedMsPerMillion', 0, 150),
  constant('network', NETWORK, 'handshakeBytes', 2000, 4500),
  constant('network', NETWORK, 'handshakeMs', 0, 15),
  constant('congestion', CONGESTION, 'growthBeforeLoss', 0.02, 0.3),
];

/** How wrong forecasts are: errors of changes and of bases, as shares of the base; single bad ones count for no more than 60 %. */
export function loss(pages: readonly Judged[]): number {
  const cases = compare(pages);
  let sum = 0;
  for (const c of cases) {
    for (const f of [c.fcp, c.lcp]) {
      const error = Math.min(0.6, Math.abs(f.forecast - f.change) / f.base);
      const base = Math.min(0.6, Math.abs(f.forecastBase - f.base) / f.base);
      sum += error + 2 * error ** 2 + 0.4 * base;
    }
  }
  return sum / Math.max(1, 2 * cases.length);
}

/** Coordinate descent: each constant in turn is moved as long as that helps, with shrinking steps. */
export function fit(pages: readonly Judged[], rounds = 3, say: (text: string) => void = () => undefined): void {
  let best = loss(pages);
  let step = 0.4;
  for (let round = 0; round < rounds; round++, step *= 0.5) {
    for (const c of FITTED) {
      const was = c.get();
      for (const direction of [1, -1]) {
        for (let tries = 0; tries < 4; tries++) {
          const now = c.get();
          const next = Math.min(
            c.most,
            Math.max(c.least, now + direction * step * Math.max(now, (c.most - c.least) / 12)),
          );
          if (next === now) break;
          c.set(next);
          const value = loss(pages);
          if (value < best - 1e-5) best = value;
          else {
            c.set(now);
            break;
          }
        }
        if (c.get() !== was) break;
      }
    }
    say(`round ${round + 1}: loss ${best.toFixed(4)}`);
  }
}
