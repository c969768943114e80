/** Lets work run side by side, except what has to be alone: it waits for the rest, and the rest for it. */
export class SideBySide {
  private readonly running = new Set<Promise<unknown>>();
  private last: Promise<unknown> = Promise.resolve();

  async shared<T>(work: () => Promise<T>): Promise<T> {
    for (let before: Promise<unknown> | undefined; before !== this.last;) {
      before = this.last;
      await before;
    }
    const made = work();
    const ended = made.then(
      () => undefined,
      () => undefined,
    );
    this.running.add(ended);
    void ended.then(() => this.running.delete(ended));
    return made;
  }

  alone<T>(work: () => Promise<T>): Promise<T> {
    const made = this.last.then(() => Promise.all(this.running)).then(work);
    this.last = made.catch(() => undefined);
    return made;
  }
}
