import { type Header, type LoadKind, header } from './capture';

const KINDS: readonly LoadKind[] = [
  'document',
  'frame',
  'style',
  'script',
  'image',
  'font',
  'media',
  'data',
  'manifest',
  'other',
];

/** Fetch Metadata `Sec-Fetch-Dest` (the Fetch Standard's destinations) to our kinds. */
const BY_DESTINATION: Readonly<Record<string, LoadKind>> = {
  document: 'document',
  iframe: 'frame',
  frame: 'frame',
  style: 'style',
  script: 'script',
  worker: 'script',
  image: 'image',
  font: 'font',
  video: 'media',
  audio: 'media',
  track: 'media',
  manifest: 'manifest',
  empty: 'data',
};

/**
 * What a load was fetched as: as stated by our recorder, else by Fetch Metadata, else by content
 * type, else by the ending of the path.
 */
export function kindOfLoad(
  stated: string | undefined,
  requestHeaders: readonly Header[],
  mimeType: string,
  url: string,
): LoadKind {
  const known = KINDS.find((k) => k === stated);
  if (known) return known;
  const destination = header(requestHeaders, 'sec-fetch-dest')?.toLowerCase();
  const byDestination = destination ? BY_DESTINATION[destination] : undefined;
  if (byDestination) return byDestination;
  return byMime(mimeType) ?? byEnding(url);
}

function byMime(mime: string): LoadKind | undefined {
  if (/text\/html|application\/xhtml/.test(mime)) return 'document';
  if (/text\/css/.test(mime)) return 'style';
  if (/javascript|ecmascript/.test(mime)) return 'script';
  if (/^image\//.test(mime)) return 'image';
  if (/^font\/|font-(woff|ttf|otf)|x-font/.test(mime)) return 'font';
  if (/^(video|audio)\//.test(mime)) return 'media';
  if (/manifest\+json/.test(mime)) return 'manifest';
  if (/json|xml|text\/plain|event-stream/.test(mime)) return 'data';
  return undefined;
}

function byEnding(url: string): LoadKind {
  const ending = /\.([a-z0-9]+)(?:[?#]|$)/i.exec(url.replace(/^[a-z]+:\/\/[^/]+/i, ''))?.[1]?.toLowerCase() ?? '';
  if (ending === 'css') return 'style';
  if (/^m?js$/.test(ending)) return 'script';
  if (/^(png|jpe?g|gif|webp|avif|svg|ico|bmp)$/.test(ending)) return 'image';
  if (/^(woff2?|ttf|otf|eot)$/.test(ending)) return 'font';
  if (/^(mp4|webm|mp3|ogg|m4a|mov)$/.test(ending)) return 'media';
  if (/^(html?|php|aspx?)$/.test(ending) || ending === '') return 'document';
  return 'other';
}

/** HTTP version text of a HAR ("HTTP/1.1", "h2", "http/2.0", "h3") to our two network behaviours. */
export function protocolOf(version: string): 'h1' | 'h2' {
  return /^(h2|h3|http\/?[23])/i.test(version.trim()) ? 'h2' : 'h1';
}
