import type { Token } from 'parse5';
import { redactUrl } from '../capture/redact';

/** An element as far as it is asked here. */
interface Tag {
  readonly tagName: string;
  readonly attrs: readonly Token.Attribute[];
}

/** Attributes that decide which picture is loaded, when, and how large. */
const TOLD = /^(src|srcset|sizes|alt|width|height|loading|fetchpriority|poster|href|imagesrcset|style|data-.*)$/;
const PICTURE = new Set(['img', 'source', 'video', 'image', 'link']);
const LONGEST = 600;
/** Smaller pictures are no heroes, in CSS pixels. */
const SMALL = 120;

/** Finds how the hero of a page is written in its source, element by element in the order of the document. */
export class HeroMarkup {
  private named = '';
  private first = '';
  private readonly paths: readonly string[];

  /** @param heroUrl the hero's file in the last recording; without one the first picture that is not small is taken */
  constructor(heroUrl?: string) {
    const url = heroUrl !== undefined && URL.canParse(heroUrl) ? new URL(heroUrl) : undefined;
    const path = url ? url.pathname + url.search : '';
    this.paths = path.length > 1 ? [path, encodeURI(decodeSafely(path))] : [];
  }

  take(el: Tag): void {
    const says = (value: string) => this.paths.some((p) => value.includes(p));
    if (!this.named && el.attrs.some((a) => says(a.value))) this.named = written(el);
    if (!this.first && el.tagName === 'img' && !isSmall(el)) this.first = written(el);
  }

  /** The start tag with the attributes that count, without secrets; empty for a page without pictures. */
  get text(): string {
    return this.named || this.first;
  }
}

function written({ tagName, attrs }: Tag): string {
  const told = attrs.filter((a) => TOLD.test(a.name) || !PICTURE.has(tagName));
  const shown = told.map((a) => ` ${a.name}="${a.value.replace(/[^\s,"'()]+/g, withoutSecrets)}"`);
  return `<${tagName}${shown.join('')}>`.slice(0, LONGEST);
}

const withoutSecrets = (word: string) => (/[?#@/]/.test(word) ? redactUrl(word) : word);

function isSmall({ attrs }: Tag): boolean {
  const size = (name: string) => Number(attrs.find((a) => a.name === name)?.value ?? NaN);
  return size('width') < SMALL || size('height') < SMALL;
}

function decodeSafely(text: string): string {
  try {
    return decodeURI(text);
  } catch {
    return text;
  }
}
