/** How an address of the site is written. */
export const FORMS = ['http://host', 'http://www.host', '//host', 'escaped', 'percent-encoded'] as const;
export type MentionForm = (typeof FORMS)[number];

/** What is replaced by what. */
export interface MoveTarget {
  /** Hosts whose http addresses become https ones, in lower case, in the forms in which they are to be found. */
  readonly hosts: readonly string[];
  /** Host that all of them get; undefined leaves each as it is. */
  readonly toHost?: string;
}

/** One place that names an http address of the site. */
export interface MoveMention {
  readonly start: number;
  readonly end: number;
  readonly form: MentionForm;
  readonly text: string;
  /** What it becomes; undefined where it stays as it is. */
  readonly replacement?: string;
  /** Why it stays. */
  readonly refused?: string;
}

/** What a text is, as far as it decides what stands in it. */
export type TextKind = 'markup' | 'code' | 'text' | 'value';

/** Finds mentions in texts, in whatever way slashes and colons are escaped. */
export class MentionFinder {
  private readonly pattern: RegExp;

  constructor(private readonly target: MoveTarget) {
    const hosts = [...target.hosts]
      .sort((a, b) => b.length - a.length)
      .map((h) => h.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
      .join('|');
    // A slash may be escaped as in JSON or scripts (\/, \u002F), also several times over.
    const slash = String.raw`(?:\\*\/|\\+u002f)`;
    const end = String.raw`(?![a-z0-9-]|\.[a-z0-9]|@)`;
    this.pattern = new RegExp(
      String.raw`(http)(:)(${slash}${slash})(${hosts})${end}(:\d+)?` +
        String.raw`|(http)(%(?:25)*3a)((?:%(?:25)*2f){2})(${hosts})${end}(%(?:25)*3a\d+)?` +
        String.raw`|(?<=["'(=]|&quot;)(${slash}${slash})(${hosts})${end}(:\d+)?`,
      'gi',
    );
  }

  /** True when a text may hold a mention. */
  mayHold(text: string): boolean {
    return text.search(this.pattern) >= 0;
  }

  /** Every mention of a text, in order; none overlaps another. */
  find(text: string, kind: TextKind): MoveMention[] {
    const out: MoveMention[] = [];
    for (const m of text.matchAll(this.pattern)) {
      const relative = m[11] !== undefined;
      const slashes = m[3] ?? m[8] ?? m[11] ?? '';
      const host = m[4] ?? m[9] ?? m[12] ?? '';
      const port = m[5] ?? m[10] ?? m[13] ?? '';
      const start = m.index;
      const mention = {
        start,
        end: start + m[0].length,
        text: m[0],
        form: formOf(relative, slashes, m[7] !== undefined, host),
      };
      const number = /\d+$/.exec(port.replace(/^%(?:25)*3a/i, ':'))?.[0];
      const refused =
        number !== undefined && number !== '80' ? `port ${number} is another server` : refusal(text, start, kind);
      if (refused !== undefined) out.push({ ...mention, refused });
      else
        out.push({
          ...mention,
          replacement: `https${m[2] ?? m[7] ?? ':'}${slashes}${this.target.toHost ?? host}`,
        });
    }
    return out;
  }
}

function formOf(relative: boolean, slashes: string, encoded: boolean, host: string): MentionForm {
  if (encoded) return 'percent-encoded';
  if (slashes !== '//') return 'escaped';
  if (relative) return '//host';
  return /^www\./i.test(host) ? 'http://www.host' : 'http://host';
}

/** Attributes and declarations whose value is a name that only looks like an address (Namespaces in XML 1.0, 2.1). */
const NAME =
  /(?:xmlns(?::[\w.-]+)?|targetNamespace|(?:\w+:)?schemaLocation|(?:\w+:)?noNamespaceSchemaLocation)\s*=\s*\\*["'][^"'<>]*$/i;
const DOCTYPE = /<!(?:DOCTYPE|ENTITY)\b[^>]*$/i;
const FORWARDED =
  /(?:^|\n)[ \t]*-{2,}[ \t]*(?:original message|forwarded message|ursprüngliche nachricht|message d'origine)/i;
const CITE = /<blockquote\b[^>]*\btype\s*=\s*\\*["']?cite/gi;

/** Why an address must stay as it is; undefined when it may be replaced. */
function refusal(text: string, at: number, kind: TextKind): string | undefined {
  const before = text.slice(Math.max(0, at - 400), at);
  if (NAME.test(before)) return 'a name of XML (namespace or schema), not an address that is fetched';
  if (DOCTYPE.test(before)) return 'a name in a document type, not an address that is fetched';
  if (isInsideAnother(before)) return 'part of another site’s URL, which would stop working';
  if (kind === 'text' || kind === 'value') {
    const line = text.slice(text.lastIndexOf('\n', at - 1) + 1, at);
    if (/^[ \t]*(?:>|&gt;)/.test(line)) return 'quoted mail: what somebody wrote stays as it was';
    const long = text.slice(Math.max(0, at - 20_000), at);
    if (FORWARDED.test(long)) return 'quoted mail: what somebody wrote stays as it was';
    const opened = (long.match(CITE) ?? []).length;
    if (opened > 0 && opened > (long.slice(long.search(CITE)).match(/<\/blockquote\s*>/gi) ?? []).length)
      return 'quoted mail: what somebody wrote stays as it was';
  }
  return undefined;
}

/** True when what stands before belongs to the path of another address: archives and proxies name others so. */
function isInsideAnother(before: string): boolean {
  const word = /[^\s"'<>()\u0000]*$/.exec(before)?.[0] ?? '';
  const outer = /https?:(?:\\*\/){2}[^/?#\\]+(.*)$/i.exec(word);
  if (!outer) return false;
  const rest = outer[1] ?? '';
  return rest !== '' && !/[?#&,;=]/.test(rest);
}
