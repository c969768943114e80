/** A response that is being sent on a connection. */
export interface Stream {
  readonly id: number;
  left: number;
  /** Bytes of a turn. */
  readonly turn: number;
  /** Urgency with which it was asked for: 4 is the most urgent. */
  readonly level: number;
  /** Shares with others of its urgency (RFC 9218, 4.2, incremental). */
  readonly shares: boolean;
}

/**
 * The order in which a server serves the streams of a connection: in turn; or by urgency where it honours that, what
 * is not incremental whole and first come first served (RFC 9218, 10).
 */
export class StreamScheduler {
  // By level of urgency; a list is there once something has been in it.
  private readonly whole: Stream[][] = [];
  private readonly shared: Stream[][] = [];
  private highest = 0;
  size = 0;

  constructor(private readonly byUrgency: boolean) {}

  add(stream: Stream): void {
    this.size++;
    const level = this.byUrgency ? stream.level : 0;
    const lists = this.listsOf(stream);
    if (level > this.highest) this.highest = level;
    const list = lists[level];
    if (list) list.push(stream);
    else lists[level] = [stream];
  }

  /** More of a stream that has been added before, whether what there was of it has been handed over or not. */
  extend(stream: Stream): void {
    const open = this.listsOf(stream)[this.byUrgency ? stream.level : 0]?.find((s) => s.id === stream.id);
    if (open) open.left += stream.left;
    else this.add(stream);
  }

  private listsOf(stream: Stream): Stream[][] {
    return this.byUrgency && !stream.shares ? this.whole : this.shared;
  }

  /** Hands over a turn of the next stream, and says of which and how many bytes. */
  hand(): { id: number; bytes: number } | undefined {
    for (let level = this.highest; level >= 0; level--) {
      const whole = this.whole[level];
      if (whole && whole.length > 0) return this.cut(whole, 0);
      const shared = this.shared[level];
      if (shared && shared.length > 0) return this.rotate(shared);
    }
    return undefined;
  }

  /** The one that has waited longest; what is left of it goes behind the others. */
  private rotate(list: Stream[]): { id: number; bytes: number } {
    const [stream] = list as [Stream];
    const turn = this.cut(list, 0);
    if (stream.left > 0) {
      list.shift();
      list.push(stream);
    }
    return turn;
  }

  private cut(list: Stream[], at: number): { id: number; bytes: number } {
    const stream = list[at] as Stream;
    const bytes = Math.min(stream.turn, stream.left);
    stream.left -= bytes;
    if (stream.left <= 0) {
      list.splice(at, 1);
      this.size--;
    }
    return { id: stream.id, bytes };
  }
}
