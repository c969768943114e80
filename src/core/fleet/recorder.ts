/** What a recorder tells of itself. */
export interface RecorderFacts {
  /** Version of Keen Lens and of its browser. */
  readonly version: string;
  readonly chromium: string;
  /** Where it stands, as its owner calls the place. */
  readonly region: string;
  /** It may make links of its own (Linux, as root). */
  readonly rootLink: boolean;
  /** Recordings at a time. */
  readonly slots: number;
  /** Pages that it records now. */
  readonly busy: readonly string[];
  /** Recordings a minute over the last ten minutes. */
  readonly perMinute: number;
  readonly startedAt: number;
  /** It ends what it has and takes nothing more. */
  readonly ending: boolean;
}

/** A recorder as listed. */
export interface RecorderRow extends RecorderFacts {
  readonly id: number;
  readonly name: string;
  readonly token: string;
  /** In ms since 1970. */
  readonly firstSeen: number;
  readonly lastSeen: number;
  readonly done: number;
  readonly failed: number;
}

/** A recorder that was silent for so long counts as gone, in ms. */
export const SILENT_MS = 45_000;
