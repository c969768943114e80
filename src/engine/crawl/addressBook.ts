import { pageAddress } from '../../core/site/address';

/** References whose address is kept for each origin. */
const KEPT = 20_000;

/**
 * Brings references into the form in which pages are told apart. Menus and footers repeat on every page: what
 * begins with a slash does not depend on the page, and is worked out once.
 */
export class AddressBook {
  private readonly known = new Map<string, Map<string, string | undefined>>();
  private last = { base: '', known: new Map<string, string | undefined>() };

  constructor(
    private readonly ignore: readonly string[],
    /** Told of references from which a session id was taken out. */
    private readonly onSession: (reference: string) => void,
  ) {}

  /** The address that a reference means; undefined for what is no page. */
  of(reference: string, base: string): string | undefined {
    const rooted = reference.startsWith('/') && !reference.startsWith('//');
    if (!rooted) return this.read(reference, base);
    const known = this.at(base);
    const found = known.get(reference);
    if (found !== undefined || known.has(reference)) return found;
    const address = this.read(reference, base);
    if (known.size >= KEPT) known.clear();
    known.set(reference, address);
    return address;
  }

  private at(base: string): Map<string, string | undefined> {
    if (this.last.base === base) return this.last.known;
    const end = base.indexOf('/', 8);
    const origin = end < 0 ? base : base.slice(0, end);
    const known = this.known.get(origin) ?? new Map<string, string | undefined>();
    this.known.set(origin, known);
    this.last = { base, known };
    return known;
  }

  private read(reference: string, base: string): string | undefined {
    const address = pageAddress(reference, base, this.ignore);
    if (address?.session) this.onSession(reference);
    return address?.url;
  }
}
