/** The state of one known address of a site; each has exactly one. */
export const COVERAGE = [
  { id: 'clean', name: 'secure and clean', means: 'Responds over https, and nothing in it uses http.' },
  {
    id: 'insecure-content',
    name: 'secure with insecure content',
    means: 'Responds over https, and something in it is fetched over http.',
  },
  {
    id: 'http-too',
    name: 'answers on http as well',
    means: 'Responds over https, and over http too without a redirect.',
  },
  { id: 'http-only', name: 'http only', means: 'Responds over http without a redirect.' },
  { id: 'redirects', name: 'redirects properly', means: 'One permanent redirect leads to a secure page.' },
  {
    id: 'redirects-badly',
    name: 'redirects badly',
    means: 'Temporary, several redirects, a loop, or an end that is not secure.',
  },
  { id: 'missing', name: 'missing', means: 'Responds with an error, or not at all.' },
  { id: 'not-asked', name: 'not asked', means: 'Known from links or lists; this sweep has not asked for it.' },
] as const;
export type CoverageState = (typeof COVERAGE)[number]['id'];

/** How many addresses are in each state. */
export type CoverageCounts = Readonly<Record<CoverageState, number>>;

export const coverageName = (id: CoverageState): string => COVERAGE.find((c) => c.id === id)?.name ?? id;
