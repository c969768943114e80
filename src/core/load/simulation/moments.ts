import { unit } from '../browser';
import type { FetchNode } from '../graph';
import type { Fetches } from './fetches';
import type { Frames } from './frames';
import type { TaskKind } from './mainThread';
import type { Scripts } from './scripts';
import type { Shared } from './shared';

/** Of loads that could be said to be over just when the first frame is due: how many draw first. */
const FRAME_FIRST_SHARE = 0.6;
/** What this is drawn by, apart from fetches. */
const FRAME_OR_LOAD = -2;

interface Needs {
  readonly fetches: Pick<Fetches, 'holding' | 'later'>;
  readonly scripts: Pick<Scripts, 'pending' | 'call'>;
  readonly frames: Pick<Frames, 'invalidate' | 'heroElementMs' | 'computeStyles' | 'queued' | 'fcp' | 'gateMs'>;
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
      this.page.frames.computeStyles(now);
      this.fire('dcl', now);
      this.checkLoad(now);
    },
  };

  /** Fires load once nothing delays it any more. */
  checkLoad(now: number): void {
    if (this.load >= 0 || this.dcl < 0 || this.page.scripts.pending > 0 || this.page.fetches.holding > 0) return;
    if (this.frameGoesFirst) return;
    this.load = now;
    this.fire('load', now);
  }

  /**
   * The stylesheet that kept the page from being drawn may be what load waited for last. Which of the two the browser
   * then does first is a matter of chance; mostly it is the frame (in timelines in three of five), and what that frame
   * finds holds load back.
   */
  private get frameGoesFirst(): boolean {
    const { frames } = this.page;
    const { seed } = this.shared;
    if (!frames.queued || frames.fcp >= 0 || frames.gateMs < this.dcl) return false;
    return seed === 0 || unit(seed, FRAME_OR_LOAD) < FRAME_FIRST_SHARE;
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
