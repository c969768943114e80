/**
 * Packets on the way down, in order: the delay is the same for all, so they arrive, and are then acknowledged, in the
 * order in which they were sent.
 */
export class Packets {
  private at = new Float64Array(256);
  fetch = new Int32Array(256);
  connection = new Int32Array(256);
  size = new Float64Array(256);
  packet = new Int32Array(256);
  delay = new Float64Array(256);
  private mask = 255;
  private acked = 0;
  private head = 0;
  private tail = 0;
  /** When the next packet arrives; Infinity when none is on its way. */
  nextArrival = Infinity;
  /** When the packet arrived that is acknowledged next; Infinity for none. */
  nextAcknowledged = Infinity;

  /** Takes the slot of the packet that arrives; its values stay until it is acknowledged. */
  arrive(): number {
    const slot = this.head++ & this.mask;
    if (this.head - this.acked === 1) this.nextAcknowledged = this.nextArrival;
    this.nextArrival = this.head < this.tail ? (this.at[this.head & this.mask] as number) : Infinity;
    return slot;
  }

  /** Takes the slot of the packet that is acknowledged; its values stay until another is sent. */
  acknowledge(): number {
    const slot = this.acked++ & this.mask;
    this.nextAcknowledged = this.acked < this.head ? (this.at[this.acked & this.mask] as number) : Infinity;
    return slot;
  }

  /** Sends a packet that arrives at a time, and gives its slot, to be filled in. */
  send(at: number): number {
    if (this.tail - this.acked > this.mask) this.grow();
    const slot = this.tail++ & this.mask;
    this.at[slot] = at;
    if (this.tail - this.head === 1) this.nextArrival = at;
    return slot;
  }

  /** Empties it for another load. */
  clear(): void {
    this.acked = this.head = this.tail = 0;
    this.nextArrival = this.nextAcknowledged = Infinity;
  }

  private grow(): void {
    const { mask, acked, tail } = this;
    const size = (mask + 1) * 2;
    const wider = <T extends Float64Array | Int32Array>(from: T, to: T): T => {
      for (let s = acked; s < tail; s++) to[s & (size - 1)] = from[s & mask] as number;
      return to;
    };
    this.at = wider(this.at, new Float64Array(size));
    this.fetch = wider(this.fetch, new Int32Array(size));
    this.connection = wider(this.connection, new Int32Array(size));
    this.size = wider(this.size, new Float64Array(size));
    this.packet = wider(this.packet, new Int32Array(size));
    this.delay = wider(this.delay, new Float64Array(size));
    this.mask = size - 1;
  }
}
