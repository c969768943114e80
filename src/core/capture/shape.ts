import { InputError } from './errors';
import type { JsonBytes } from './jsonBytes';

/** A view of untrusted JSON that knows its own path, so that every fault can be named. */
export class Shape {
  constructor(
    private readonly value: unknown,
    readonly path: string,
    /** The document that this is part of, which may keep long texts aside. */
    private readonly json?: JsonBytes,
  ) {}

  at(key: string): Shape {
    const holder = this.value;
    const inside =
      holder !== null && typeof holder === 'object' && !Array.isArray(holder) && Object.hasOwn(holder, key)
        ? (holder as Record<string, unknown>)[key]
        : undefined;
    return new Shape(inside, `${this.path}.${key}`, this.json);
  }

  /** @throws InputError when this is not an object. */
  object(rule: string): Shape {
    if (this.value === null || typeof this.value !== 'object' || Array.isArray(this.value))
      this.fail('an object', rule);
    return this;
  }

  /** @throws InputError when this is not an array. */
  array(rule: string): Shape[] {
    if (!Array.isArray(this.value)) return this.fail('an array', rule);
    return this.value.map((v, i) => new Shape(v, `${this.path}[${i}]`, this.json));
  }

  optionalArray(): Shape[] {
    return this.value === undefined || this.value === null ? [] : this.array('');
  }

  /** @throws InputError when this is not a string. */
  string(rule: string): string {
    if (typeof this.value !== 'string') return this.fail('a string', rule);
    return this.json?.text(this.value) ?? this.value;
  }

  /** A text that may be very long, as the document knows it: for `JsonBytes.text` and `raw`. */
  optionalLongText(): string | undefined {
    if (this.value === undefined || this.value === null) return undefined;
    return typeof this.value === 'string' ? this.value : this.fail('a string', '');
  }

  optionalString(): string | undefined {
    return this.value === undefined || this.value === null ? undefined : this.string('');
  }

  /** A number of a size that times and bytes can have. */
  optionalNumber(): number | undefined {
    if (this.value === undefined || this.value === null) return undefined;
    const n = this.value;
    if (typeof n !== 'number' || !Number.isFinite(n)) return this.fail('a number', '');
    return Math.abs(n) < 1e12 ? n : this.fail('a number of a believable size', '');
  }

  /** A number of at least 0. */
  optionalCount(): number | undefined {
    const n = this.optionalNumber();
    return n === undefined || n >= 0 ? n : this.fail('a number from 0 up', '');
  }

  optionalBoolean(): boolean | undefined {
    if (this.value === undefined || this.value === null) return undefined;
    return typeof this.value === 'boolean' ? this.value : this.fail('true or false', '');
  }

  /** One of some words. */
  optionalWord<W extends string>(words: readonly W[]): W | undefined {
    const text = this.optionalString();
    if (text === undefined) return undefined;
    return words.find((w) => w === text) ?? this.fail(`one of ${words.join(', ')}`, '');
  }

  optionalValue(): unknown {
    return this.value ?? undefined;
  }

  /** Milliseconds since 1970 of an ISO 8601 time. @throws InputError */
  date(rule: string): number {
    const ms = Date.parse(this.string(rule));
    return Number.isNaN(ms) ? this.fail('an ISO 8601 date and time', rule) : ms;
  }

  optionalDate(): number | undefined {
    return this.value === undefined || this.value === null ? undefined : this.date('');
  }

  private fail(wanted: string, rule: string): never {
    const is = this.value === undefined ? 'missing' : `${describe(this.value)}`;
    const name = this.path.split('.').at(-1) ?? this.path;
    throw new InputError(`"${name}" should be ${wanted} but is ${is}.`, this.path, rule || 'Export the file again.');
  }
}

function describe(value: unknown): string {
  if (value === null) return 'null';
  if (Array.isArray(value)) return 'an array';
  const text = JSON.stringify(value);
  return text.length > 60 ? `a ${typeof value}` : `${typeof value} ${text}`;
}

/**
 * A small document of JSON as a view that knows its path.
 * @param next what to do where it is none
 * @throws InputError for text that is no JSON
 */
export function shapeOf(text: string, where: string, next: string): Shape {
  try {
    return new Shape(JSON.parse(text), where);
  } catch (error) {
    throw new InputError(`This is no JSON: ${error instanceof Error ? error.message : String(error)}`, where, next);
  }
}
