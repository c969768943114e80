const CONTEXT = 3;

/** A line that stays, or lines that become others; none on either side is one that is put in or taken away. */
interface Entry {
  readonly before: string;
  readonly after: string;
}

/**
 * Writes the unified diff of a file line by line.
 * @param write takes pieces of the diff in order
 */
export class UnifiedDiff {
  private readonly waiting: Entry[] = [];
  private hunk: Entry[] | undefined;
  private hunkStart = 0;
  private quiet = 0;
  /** Lines so far, and how many more there are after the changes. */
  private line = 0;
  private shift = 0;
  private begun = false;

  constructor(
    private readonly path: string,
    private readonly write: (text: string) => void,
  ) {}

  /** The next line of the file, its end included, before and after; several at once only where they change. */
  add(before: string, after: string): void {
    const changed = before !== after;
    if (!this.hunk) {
      if (!changed) {
        this.line++;
        this.waiting.push({ before, after });
        if (this.waiting.length > CONTEXT) this.waiting.shift();
        return;
      }
      this.hunkStart = this.line + 1 - this.waiting.length;
      this.hunk = this.waiting.splice(0);
    }
    this.line += changed ? linesOf(before).length : 1;
    this.hunk.push({ before, after });
    this.quiet = changed ? 0 : this.quiet + 1;
    if (this.quiet > 2 * CONTEXT) this.flush();
  }

  end(): void {
    this.flush();
  }

  private flush(): void {
    const { hunk } = this;
    if (!hunk) return;
    const drop = Math.max(0, this.quiet - CONTEXT);
    const shown = drop > 0 ? hunk.slice(0, -drop) : hunk;
    const rows = (side: keyof Entry) => shown.reduce((sum, entry) => sum + linesOf(entry[side]).length, 0);
    const [old, made] = [rows('before'), rows('after')];
    if (!this.begun) this.write(`--- a/${this.path}\n+++ b/${this.path}\n`);
    this.begun = true;
    this.write(`@@ -${this.hunkStart},${old} +${this.hunkStart + this.shift},${made} @@\n`);
    this.shift += made - old;
    for (let i = 0; i < shown.length;) {
      const same = shown[i];
      if (same && same.before === same.after) {
        this.write(marked(' ', same.before));
        i++;
        continue;
      }
      let end = i;
      while (end < shown.length && shown[end]?.before !== shown[end]?.after) end++;
      const run = shown.slice(i, end);
      for (const l of run.flatMap((e) => linesOf(e.before))) this.write(marked('-', l));
      for (const l of run.flatMap((e) => linesOf(e.after))) this.write(marked('+', l));
      i = end;
    }
    for (const l of hunk.slice(-Math.min(CONTEXT, this.quiet))) this.waiting.push(l);
    while (this.waiting.length > CONTEXT) this.waiting.shift();
    this.hunk = undefined;
    this.quiet = 0;
  }
}

/** A text in lines, each with its end. */
export const linesOf = (text: string): string[] => text.match(/[^\n]*\n|[^\n]+$/g) ?? [];

const marked = (mark: string, line: string): string =>
  mark + line + (line.endsWith('\n') ? '' : '\n\\ No newline at end of file\n');
