import type { Reader } from './facts';

/** Kinds of files that reports come as. */
export const FORMATS = ['html', 'pdf', 'xlsx', 'md', 'json', 'csv'] as const;
export type Format = (typeof FORMATS)[number];

/** What each reader's report comes as. */
export const FORMATS_OF: Readonly<Record<Reader, readonly Format[]>> = {
  owner: ['html', 'pdf', 'json'],
  fixer: ['html', 'pdf', 'md', 'xlsx', 'csv', 'json'],
  auditor: ['html', 'pdf', 'xlsx', 'csv', 'json'],
};
