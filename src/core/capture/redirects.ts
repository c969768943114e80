/** Redirects that a browser follows at most (Fetch, 4.4: HTTP-redirect fetch). */
export const MAX_REDIRECTS = 20;

/** Follows from one thing to the next until there is none; after as many redirects as a browser follows it stops. */
export function followToEnd<T>(start: T, next: (at: T) => T | undefined): T {
  let at = start;
  for (let hops = 0; hops < MAX_REDIRECTS; hops++) {
    const to = next(at);
    if (to === undefined) return at;
    at = to;
  }
  return at;
}
