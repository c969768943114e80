/** What the server sends along with a page, so that what it drew can be drawn again here before anything is asked for. */
export interface Served {
  /** The page's address as it was asked for. */
  readonly url: string;
  /** Width of the window that the page was drawn for, in px. */
  readonly width: number;
  /** Answers of the API by path: those that the first content rests on. */
  readonly answers: Readonly<Record<string, unknown>>;
  /** When it was sent, ms since 1970. */
  readonly at: number;
}

/** Id of the element that holds it, as JSON. */
export const SERVED_ID = 'served';

const NOTHING: Served = { url: 'http://localhost/', width: 1280, answers: {}, at: 0 };

let onServer: (() => Served | undefined) | undefined;
let here: Served | undefined;

/** On the server: names what the page that is being drawn is served with. */
export function serveFrom(source: () => Served | undefined): void {
  onServer = source;
}

/** What the page at hand was served with; the answers stand at its end, so a browser is to ask once it is parsed. */
export function served(): Served {
  if (typeof document === 'undefined') return onServer?.() ?? NOTHING;
  return (here ??= readServed(document));
}

/** Takes over what another document was served with: the one that is about to be shown. */
export function takeServed(from: Document): Served {
  return (here = readServed(from));
}

function readServed(from: Document): Served {
  const text = from.getElementById(SERVED_ID)?.textContent;
  return text ? (JSON.parse(text) as Served) : { ...NOTHING, url: window.location.href, width: window.innerWidth };
}
