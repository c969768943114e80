/** The sweep to show when none is asked for: the latest with something in it; one that only began does not count. */
export function currentSweep<S extends { readonly endedAt: string | null; readonly captures: number }>(
  sweeps: readonly S[],
): S | undefined {
  return sweeps.find((s) => s.endedAt !== null || s.captures > 0) ?? sweeps[0];
}
