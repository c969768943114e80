import { parse, TokenStream, type CssNode, type ParseOptions } from 'css-tree';

/**
 * Parses CSS (CSS Syntax 3). The same text gives the same tree whatever was parsed before it, and every text comes to
 * an end.
 * @throws RangeError when the parser makes no progress; SyntaxError where the options pass over no fault
 */
export function parseCss(text: string, options: ParseOptions): CssNode {
  let faults = 0;
  return parse(text, {
    ...options,
    onParseError: () => {
      // Each fault that is passed over takes a character at least.
      if (++faults > text.length) throw new RangeError('The parser stands still.');
    },
  });
}

/**
 * The parser keeps its buffer of token types from one text to the next and, when the first bracket closes, looks at the
 * place behind the last token, where an older text may have left a bracket: brackets are then paired wrongly, and
 * parsing may go on without end. That place is emptied first.
 */
const setSource = (TokenStream.prototype as Buffered).setSource;
(TokenStream.prototype as Buffered).setSource = function (this: Buffered, source, tokenize) {
  if (this.offsetAndType) this.offsetAndType[source?.length ?? 0] = 0;
  setSource.call(this, source, tokenize);
};

interface Buffered extends TokenStream {
  offsetAndType?: Uint32Array | null;
}
