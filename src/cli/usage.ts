/** A fault in how the command was called. */
export class UsageError extends Error {}

/** What was asked for was done, and a limit is broken: exit code 1. */
export class FailedCheck extends Error {}
