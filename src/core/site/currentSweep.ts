interface Listed {
  readonly day: string;
  /** Null for a sweep made of imported files. */
  readonly startedAt: string | null;
  readonly endedAt: string | null;
  readonly captures: number;
}

/** True for a sweep that ran to its end, or is made of files. One that failed or was cancelled is never whole. */
export const isWhole = (s: Pick<Listed, 'startedAt' | 'endedAt' | 'captures'>): boolean =>
  s.endedAt !== null || (s.startedAt === null && s.captures > 0);

/** The sweep to show when none is asked for: the latest whole one; without any, one with something in it. */
export function currentSweep<S extends Listed>(sweeps: readonly S[]): S | undefined {
  return sweeps.find(isWhole) ?? sweeps.find((s) => s.captures > 0) ?? sweeps[0];
}

/** The sweep with an id, else the one to show when none is asked for. */
export function chooseSweep<S extends Listed & { readonly id: number }>(
  sweeps: readonly S[],
  id: number,
): S | undefined {
  return sweeps.find((s) => s.id === id) ?? currentSweep(sweeps);
}

/** Time of day of a sweep, `14:05` in UTC, where another one is of the same day. */
export function timeOfSweep(sweep: Listed, all: readonly Listed[]): string | undefined {
  if (!sweep.startedAt || all.filter((s) => s.day === sweep.day).length < 2) return undefined;
  return sweep.startedAt.slice(11, 16);
}
