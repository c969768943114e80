/** What a fix asks for outside the source: files made anew, and settings of servers. */
export type ServerChange =
  /** Send it with gzip (RFC 9110, 8.4.1). */
  | { readonly do: 'compress'; readonly url: string }
  /** Take out what only people read. */
  | { readonly do: 'minify'; readonly url: string }
  /** Re-encode a picture in its own format, in file pixels. */
  | { readonly do: 'resize'; readonly url: string; readonly width: number; readonly height: number }
  /** Serve a file from another address; addresses inside a stylesheet are made absolute. */
  | { readonly do: 'copy'; readonly url: string; readonly to: string }
  /** Offer a font as WOFF 2 under another address. */
  | { readonly do: 'convert'; readonly url: string; readonly to: string }
  /** Send a header with every answer of a host, or with one address. */
  | { readonly do: 'header'; readonly url: string; readonly name: string; readonly value: string }
  /** Answer after this think time, in ms. */
  | { readonly do: 'answer'; readonly url: string; readonly waitMs: number };
