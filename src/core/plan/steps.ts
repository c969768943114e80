/** Work that can be stopped between its steps, and what it comes to. */
export type Steps<T> = Generator<void, T>;

/** Takes all steps at once. */
export function finished<T>(steps: Steps<T>): T {
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}
