/** A fault in how the command was called. */
export class UsageError extends Error {}
