/** A binary heap of (time, kind, argument). Equal times leave in the order in which they came. */
export class EventQueue {
  private times = new Float64Array(256);
  private keys = new Int32Array(256);
  private args = new Int32Array(256);
  private order = new Int32Array(256);
  private size = 0;
  private count = 0;
  /** Of the event taken last. */
  time = 0;
  kind = 0;
  arg = 0;

  /** Empties it for another load. */
  clear(): void {
    this.size = this.count = 0;
    this.time = this.kind = this.arg = 0;
  }

  get length(): number {
    return this.size;
  }

  /** Time of the next event, Infinity when there is none. */
  get next(): number {
    return this.size > 0 ? (this.times[0] as number) : Infinity;
  }

  push(time: number, kind: number, arg: number): void {
    if (this.size === this.times.length) this.grow();
    let i = this.size++;
    const order = this.count++;
    while (i > 0) {
      const up = (i - 1) >> 1;
      if ((this.times[up] as number) <= time) break;
      this.move(up, i);
      i = up;
    }
    this.times[i] = time;
    this.keys[i] = kind;
    this.args[i] = arg;
    this.order[i] = order;
  }

  /** Takes the earliest event into `time`, `kind`, `arg`. */
  pop(): void {
    this.time = this.times[0] as number;
    this.kind = this.keys[0] as number;
    this.arg = this.args[0] as number;
    const last = --this.size;
    if (last === 0) return;
    const time = this.times[last] as number;
    const order = this.order[last] as number;
    const kind = this.keys[last] as number;
    const arg = this.args[last] as number;
    let i = 0;
    for (;;) {
      let child = 2 * i + 1;
      if (child >= last) break;
      if (child + 1 < last && this.before(child + 1, child)) child++;
      const t = this.times[child] as number;
      if (t > time || (t === time && (this.order[child] as number) > order)) break;
      this.move(child, i);
      i = child;
    }
    this.times[i] = time;
    this.keys[i] = kind;
    this.args[i] = arg;
    this.order[i] = order;
  }

  private before(a: number, b: number): boolean {
    const ta = this.times[a] as number;
    const tb = this.times[b] as number;
    return ta < tb || (ta === tb && (this.order[a] as number) < (this.order[b] as number));
  }

  private move(from: number, to: number): void {
    this.times[to] = this.times[from] as number;
    this.keys[to] = this.keys[from] as number;
    this.args[to] = this.args[from] as number;
    this.order[to] = this.order[from] as number;
  }

  private grow(): void {
    const size = this.times.length * 2;
    const copy = <T extends Float64Array | Int32Array>(to: T, from: T): T => {
      to.set(from as never);
      return to;
    };
    this.times = copy(new Float64Array(size), this.times);
    this.keys = copy(new Int32Array(size), this.keys);
    this.args = copy(new Int32Array(size), this.args);
    this.order = copy(new Int32Array(size), this.order);
  }
}
