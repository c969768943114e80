/** What a finding does to visitors. */
export type Harm = 'broken' | 'exposed' | 'slow' | 'tidy';

/** What findings are about; each has a screen that answers its question. */
export const CONCERNS = [
  {
    id: 'https',
    name: 'HTTPS coverage',
    question:
      'Does every way into this site lead to one secure address in one permanent redirect, and do its own links name that address?',
  },
  {
    id: 'mixed',
    name: 'Mixed content',
    question: 'What do secure pages still request over http, do browsers block or upgrade it, and where is it written?',
  },
  { id: 'hero', name: 'Hero', question: 'What is the largest element above the fold (LCP), and what delays it?' },
  { id: 'weight', name: 'Weight', question: 'Which files are larger than they need to be?' },
  { id: 'blocking', name: 'Blocking', question: 'What blocks the first paint?' },
] as const;

export type Concern = (typeof CONCERNS)[number]['id'];
