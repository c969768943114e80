const CONTEXT = 3;

interface Line {
  readonly before: string;
  readonly after: string;
}

/**
 * Writes the unified diff of a file line by line, for changes that add and take away no lines.
 * @param write takes pieces of the diff in order
 */
export class UnifiedDiff {
  private readonly waiting: Line[] = [];
  private hunk: Line[] | undefined;
  private hunkStart = 0;
  private quiet = 0;
  private line = 0;
  private begun = false;

  constructor(
    private readonly path: string,
    private readonly write: (text: string) => void,
  ) {}

  /** The next line of the file, its end included, before and after. */
  add(before: string, after: string): void {
    this.line++;
    const changed = before !== after;
    if (!this.hunk) {
      if (!changed) {
        this.waiting.push({ before, after });
        if (this.waiting.length > CONTEXT) this.waiting.shift();
        return;
      }
      this.hunkStart = this.line - this.waiting.length;
      this.hunk = this.waiting.splice(0);
    }
    this.hunk.push({ before, after });
    this.quiet = changed ? 0 : this.quiet + 1;
    if (this.quiet >= 2 * CONTEXT) this.flush();
  }

  end(): void {
    this.flush();
  }

  private flush(): void {
    const { hunk } = this;
    if (!hunk) return;
    const drop = Math.max(0, this.quiet - CONTEXT);
    const shown = drop > 0 ? hunk.slice(0, -drop) : hunk;
    if (!this.begun) this.write(`--- a/${this.path}\n+++ b/${this.path}\n`);
    this.begun = true;
    this.write(`@@ -${this.hunkStart},${shown.length} +${this.hunkStart},${shown.length} @@\n`);
    const text = (mark: string, line: string) =>
      mark + line + (line.endsWith('\n') ? '' : '\n\\ No newline at end of file\n');
    for (let i = 0; i < shown.length;) {
      const same = shown[i];
      if (same && same.before === same.after) {
        this.write(text(' ', same.before));
        i++;
        continue;
      }
      let end = i;
      while (end < shown.length && shown[end]?.before !== shown[end]?.after) end++;
      for (const l of shown.slice(i, end)) this.write(text('-', l.before));
      for (const l of shown.slice(i, end)) this.write(text('+', l.after));
      i = end;
    }
    for (const l of hunk.slice(-Math.min(CONTEXT, this.quiet))) this.waiting.push(l);
    while (this.waiting.length > CONTEXT) this.waiting.shift();
    this.hunk = undefined;
    this.quiet = 0;
  }
}
