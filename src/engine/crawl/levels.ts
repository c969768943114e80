import type { WaitingPage } from '../store/crawlPages';

/** Pages that wait for their visit, by level: the lowest comes first. */
export class Levels {
  private readonly lists = new Map<number, WaitingPage[]>();

  add(page: WaitingPage): void {
    const list = this.lists.get(page.level);
    if (list) list.push(page);
    else this.lists.set(page.level, [page]);
  }

  /** The lowest level at which a page waits; Infinity for none. */
  lowest(): number {
    let lowest = Infinity;
    for (const [level, list] of this.lists) {
      if (list.length === 0) this.lists.delete(level);
      else lowest = Math.min(lowest, level);
    }
    return lowest;
  }

  take(level: number): WaitingPage | undefined {
    return this.lists.get(level)?.shift();
  }
}
