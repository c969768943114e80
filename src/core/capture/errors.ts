/** A fault in something a user gave us: says what, where and what to do next. Reaches the screen as it is. */
export class InputError extends Error {
  constructor(
    /** What is wrong, in one sentence. */
    readonly what: string,
    /** Where: a JSON path, a file name, a URL. */
    readonly where: string,
    /** What to do next. */
    readonly next: string,
  ) {
    super(`${what} (${where}) ${next}`);
    this.name = 'InputError';
  }
}

/** A page that could not be reached, or a browser that failed. */
export class PageError extends InputError {}
