import type { SweepNote } from '../store/crawlPages';
import type { CutAddresses } from './cutAddresses';

/** What was cut off or waited out since it was last stored: one note for each thing, counted, without secrets. */
export class NoteBook {
  private notes = new Map<string, SweepNote>();

  constructor(private readonly cut: CutAddresses) {}

  get size(): number {
    return this.notes.size;
  }

  add(kind: string, about: string, example: string, what: string, source?: string): void {
    const shown = (text: string) => this.cut.shown(text);
    const key = `${kind} ${shown(about)}`;
    const known = this.notes.get(key);
    this.notes.set(
      key,
      known
        ? { ...known, count: known.count + 1 }
        : {
            kind,
            about: shown(about),
            count: 1,
            example: shown(example),
            source: source === undefined ? undefined : shown(source),
            what: this.cut.secrets.cutKnown(what, 'content'),
          },
    );
  }

  /** The notes so far; the book is empty afterwards. */
  takeAll(): SweepNote[] {
    const all = [...this.notes.values()];
    this.notes = new Map();
    return all;
  }
}
