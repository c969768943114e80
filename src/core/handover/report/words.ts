import { effectText, timeRangeText, timeText } from '../effectText';
import type { Range } from '../../load/range';
import { Html, partText, type Part } from './html';

/** The texts of reports in another language. */
export interface LanguageFile {
  /** Tag of the language (BCP 47): "de". */
  readonly language: string;
  /** Its own name for itself. */
  readonly name: string;
  /**
   * By the English text. `{name}` stands for what is put in, in whichever order the language wants. A text with
   * placeholders also translates texts that were put together elsewhere, where it fits them.
   */
  readonly texts: Readonly<Record<string, string>>;
}

type Values = Readonly<Record<string, string | number>>;

/** What a placeholder takes in a text that was put together elsewhere, told by its name. */
const TAKES: readonly (readonly [name: RegExp, takes: string])[] = [
  [/^(time|low|high)/, String.raw`-?[\d.,]+(?: (?:ms|s))?`],
  [/^bytes/, String.raw`[\d.,]+ (?:B|kB|MB|GB)`],
  [/^(file|host)/, String.raw`\S+`],
  [/^n(\d|[A-Z]\w*)?$/, String.raw`[\d,.]+`],
];
const PLACEHOLDER = /\{(\w+)\}/g;
const QUANTITY = /^-?[\d,]+(?:\.\d+)?(?: (?:ms|s|B|kB|MB|GB|%))?$/;
/** Texts within texts are followed so deep. */
const DEEPEST = 3;

/** Names of the placeholders of a text. */
export const placeholders = (text: string): string[] => [...text.matchAll(PLACEHOLDER)].map((m) => m[1] as string);

/** Says the texts of reports in a language; without a file in English. */
export class Words {
  readonly language: string;
  /** English texts that the file has not. */
  readonly missing = new Set<string>();
  private readonly patterns: readonly { readonly fits: RegExp; readonly names: string[]; readonly text: string }[];

  constructor(private readonly file?: LanguageFile) {
    this.language = file?.language ?? 'en';
    this.patterns = Object.entries(file?.texts ?? {})
      .filter(([english]) => placeholders(english).length > 0)
      // What says more in words of its own fits better.
      .sort(([a], [b]) => b.replace(PLACEHOLDER, '').length - a.replace(PLACEHOLDER, '').length)
      .map(([english, text]) => ({ fits: patternOf(english), names: placeholders(english), text }));
  }

  /** A text of the reports with values put in as they are; numbers get the marks of the language. */
  text(english: string, values: Values = {}): string {
    return this.template(english).replace(PLACEHOLDER, (all, name: string) => {
      const value = values[name];
      return value === undefined ? all : this.value(value);
    });
  }

  /** The same with markup among the values; everything else is escaped. */
  html(english: string, values: Readonly<Record<string, Part>> = {}): Html {
    const parts = this.template(english).split(PLACEHOLDER);
    // Every other part is the name of a placeholder.
    return new Html(
      parts
        .map((part, i) => {
          if (i % 2 === 0) return partText(part);
          const value = values[part];
          return typeof value === 'number' ? partText(this.value(value)) : partText(value);
        })
        .join(''),
    );
  }

  /** A text that was put together elsewhere: a title of a fix, a finding in plain words. */
  phrase(english: string): string {
    if (!this.file) return english;
    const said = this.find(english, 0);
    if (said === undefined) this.missing.add(english);
    return said ?? english;
  }

  /** The same for a text that may be somebody's own: the name of a visitor, say. */
  orOwn(english: string): string {
    return this.find(english, 0) ?? english;
  }

  time(ms: number): string {
    return this.orOwn(timeText(ms));
  }

  timeRange(range: Range): string {
    return this.phrase(timeRangeText(range));
  }

  effect(changeMs: number, range?: Range): string {
    return this.phrase(effectText(changeMs, range));
  }

  /** What a fix saves, for a column that says "saves": "1.3 s (1.2 to 1.6 s)"; below nothing where it may cost time. */
  saving(changeMs: number, range?: Range): string {
    const saved = this.orOwn(Math.abs(changeMs) < 40 ? 'no change' : signedTime(-changeMs));
    if (!range) return saved;
    const [low, high] = [-range[1], -range[0]];
    // Beside seconds some hundredths below nothing are nothing.
    return `${saved} (${this.timeRange([Math.abs(low) < 50 && high >= 950 ? 0 : low, high])})`;
  }

  /** "26 November 2026" for YYYY-MM-DD; anything else as it is. */
  day(day: string): string {
    const at = Date.parse(`${day}T12:00:00Z`);
    return Number.isFinite(at)
      ? new Date(at).toLocaleDateString(this.file?.language ?? 'en-GB', {
          day: 'numeric',
          month: 'long',
          year: 'numeric',
          timeZone: 'UTC',
        })
      : day;
  }

  /** "October 2026" for YYYY-MM. */
  month(month: string): string {
    return new Date(`${month}-15T00:00:00Z`).toLocaleDateString(this.file?.language ?? 'en-GB', {
      month: 'long',
      year: 'numeric',
      timeZone: 'UTC',
    });
  }

  private template(english: string): string {
    if (!this.file) return english;
    const said = this.file.texts[english];
    if (said === undefined) this.missing.add(english);
    return said ?? english;
  }

  private value(value: string | number): string {
    return typeof value === 'number' ? value.toLocaleString(this.file?.language ?? 'en-GB') : value;
  }

  private find(english: string, depth: number): string | undefined {
    if (!this.file) return undefined;
    const exact = this.file.texts[english];
    if (exact !== undefined) return exact;
    if (QUANTITY.test(english)) return this.quantity(english);
    if (depth >= DEEPEST) return undefined;
    for (const { fits, names, text } of this.patterns) {
      const found = fits.exec(english);
      if (!found) continue;
      return text.replace(PLACEHOLDER, (all, name: string) => {
        const value = found[names.indexOf(name) + 1];
        return value === undefined ? all : (this.find(value, depth + 1) ?? value);
      });
    }
    return undefined;
  }

  /** A number with its unit, with the marks of the language. */
  private quantity(text: string): string {
    const [, number = '', unit = ''] = /^(-?[\d,.]+)(.*)$/.exec(text) ?? [];
    const digits = number.split('.')[1]?.length ?? 0;
    const value = Number(number.replaceAll(',', ''));
    return `${value.toLocaleString(this.language, { minimumFractionDigits: digits, maximumFractionDigits: digits })}${unit}`;
  }
}

const signedTime = (ms: number) => (ms < 0 ? `-${timeText(-ms)}` : timeText(ms));

export const ENGLISH = new Words();

/** The words of a report. */
export const wordsOf = (facts: { readonly language?: LanguageFile }): Words =>
  facts.language ? new Words(facts.language) : ENGLISH;

function patternOf(english: string): RegExp {
  const source = english
    .split(PLACEHOLDER)
    .map((part, i) =>
      i % 2 === 0
        ? part.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')
        : `(${TAKES.find(([name]) => name.test(part))?.[1] ?? '.+?'})`,
    )
    .join('');
  return new RegExp(`^${source}$`, 's');
}
