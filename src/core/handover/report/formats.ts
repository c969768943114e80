import type { Reader } from './facts';

/** Kinds of files that reports come as. */
export const FORMATS = ['html', 'pdf', 'xlsx', 'md', 'json', 'csv', 'zip', 'sarif'] as const;
export type Format = (typeof FORMATS)[number];

/** What each reader's report comes as, the usual one first. */
export const FORMATS_OF: Readonly<Record<Reader, readonly Format[]>> = {
  owner: ['pdf', 'html', 'json'],
  fixer: ['zip', 'md', 'html', 'pdf', 'xlsx', 'csv', 'json'],
  auditor: ['xlsx', 'html', 'pdf', 'zip', 'csv', 'json', 'sarif'],
};
