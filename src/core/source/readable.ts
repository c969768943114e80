/** Elements of one document that are read: more would fill the memory, and no page that people use has as many. */
export const MOST_ELEMENTS = 300_000;
/** Characters of one text that are read. */
export const MOST_CHARACTERS = 12_000_000;

/**
 * The part of a source that is read: all of it, but for one with more elements or characters than fit. What is left out
 * stands at its end, so that offsets hold.
 */
export function readablePart(text: string, mostElements = MOST_ELEMENTS): string {
  let part = text.length > MOST_CHARACTERS ? text.slice(0, MOST_CHARACTERS) : text;
  // Each element takes a tag; closing tags are no elements.
  let tags = 0;
  for (let at = part.indexOf('<'); at >= 0; at = part.indexOf('<', at + 1)) {
    const next = part.charCodeAt(at + 1) | 0x20;
    if (next >= 0x61 && next <= 0x7a && ++tags > mostElements) {
      part = part.slice(0, at);
      break;
    }
  }
  return part;
}

/** Says how much of a text was read; undefined for all of it. */
export function unreadNote(what: string, text: string, mostElements = MOST_ELEMENTS): string | undefined {
  const part = readablePart(text, mostElements).length;
  return part === text.length
    ? undefined
    : `${what} is too large to be read in whole: the first ${Math.round(part / 1000).toLocaleString('en-GB')} of ${Math.round(text.length / 1000).toLocaleString('en-GB')} kB were examined.`;
}
