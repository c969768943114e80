import type { Timer } from '../../core/capture/capture';

/** What a trace says of a timer, or of a callback for idle time, when it is set and when it runs. */
export interface TimerEvent {
  readonly name: string;
  readonly ts: number;
  readonly args?: {
    readonly data?: {
      readonly timerId?: number;
      readonly id?: number;
      readonly frame?: string;
      readonly timeout?: number;
      readonly singleShot?: boolean;
    };
  };
}

/** Events that set something, by those with which it runs (HTML, 8.6; requestIdleCallback). */
const SET_BY: Readonly<Record<string, string>> = {
  TimerFire: 'TimerInstall',
  FireIdleCallback: 'RequestIdleCallback',
};

/** Timers of a page: when each was set, and what for. */
export class Timers {
  private readonly set = new Map<string, TimerEvent[]>();

  /**
   * @param events of the page's main thread, in order
   * @param zeroMs the start of the navigation, on the clock of the trace
   */
  constructor(
    events: readonly TimerEvent[],
    private readonly zeroMs: number,
  ) {
    const names = new Set(Object.values(SET_BY));
    for (const event of events) {
      if (!names.has(event.name)) continue;
      const key = keyOf(event.name, event);
      const list = this.set.get(key);
      if (list) list.push(event);
      else this.set.set(key, [event]);
    }
  }

  /** The timer that runs with an event; undefined for what is no timer. */
  of(event: TimerEvent): Timer | undefined {
    const name = SET_BY[event.name];
    const set = name && this.set.get(keyOf(name, event))?.findLast((e) => e.ts <= event.ts);
    if (!set) return undefined;
    const { timeout = 0, singleShot = true } = set.args?.data ?? {};
    const tookMs = (event.ts - set.ts) / 1000;
    // A callback for idle time states by when it has to run at the latest, not before when it may not.
    const waitsMs = name === 'TimerInstall' ? timeout : 0;
    const times = singleShot ? 1 : Math.max(1, Math.round(tookMs / Math.max(1, waitsMs)));
    return { setMs: set.ts / 1000 - this.zeroMs, delayMs: times * waitsMs };
  }
}

/** Numbers of timers are a frame's own. */
function keyOf(name: string, { args }: TimerEvent): string {
  const { timerId, id, frame } = args?.data ?? {};
  return `${name} ${frame ?? ''} ${timerId ?? id ?? ''}`;
}
