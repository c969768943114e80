import type { FetchNode } from '../graph';
import type { Fetches } from './fetches';
import type { Frames } from './frames';
import type { TaskKind } from './mainThread';
import type { Scripts } from './scripts';
import type { Shared } from './shared';

interface Needs {
  readonly fetches: Pick<Fetches, 'holding' | 'later'>;
  readonly scripts: Pick<Scripts, 'pending' | 'call'>;
  readonly frames: Pick<Frames, 'invalidate' | 'heroElementMs'>;
}

/** DOMContentLoaded and load, with what hangs on them (HTML, 13.2.7). */
export class Moments {
  dcl = -1;
  load = -1;

  constructor(
    private readonly shared: Shared,
    private readonly page: Needs,
  ) {}

  readonly domContentLoaded: TaskKind = {
    begin: () => 0,
    end: (_, now) => {
      this.dcl = now;
      this.fire('dcl', now);
      this.checkLoad(now);
    },
  };

  /** Fires load once nothing delays it any more. */
  checkLoad(now: number): void {
    if (this.load >= 0 || this.dcl < 0 || this.page.scripts.pending > 0 || this.page.fetches.holding > 0) return;
    this.load = now;
    this.fire('load', now);
  }

  private fire(event: 'dcl' | 'load', now: number): void {
    const { graph, p } = this.shared;
    const { fetches, scripts, frames } = this.page;
    if (graph.hero.afterEvent === event) {
      frames.heroElementMs = now;
      frames.invalidate(now);
    }
    scripts.call(p.calledBy[event], now);
    for (const id of p.afterEvent[event]) {
      const d = (graph.fetches[id] as FetchNode).discovery;
      fetches.later(id, now + (d.by === 'event' ? d.delayMs : 0), now, -1);
    }
  }
}
