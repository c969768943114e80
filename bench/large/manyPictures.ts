import zlib from 'node:zlib';

interface Entry {
  startedDateTime: string;
  request: { url: string };
  response: { status: number; content: { text?: string; mimeType: string } };
  _lens: { kind: string };
}

interface Picture {
  url: string;
  path: string;
  box: { x: number; y: number; width: number; height: number };
  visible: boolean;
}

interface Har {
  log: {
    pages: { _lens: { screenshot?: string; observations: { pictures: Picture[]; renderedHtml: string } } }[];
    entries: Entry[];
  };
}

/** From about here on too many pixels are worth a word, base64. */
const WORTH_BYTES = 60_000;

/**
 * A capture with more pictures than were recorded: copies of one of its own under further addresses, far larger than
 * drawn, as a long list of a shop has them.
 * @param file a gzipped HAR of ours
 */
export function withMorePictures(file: Buffer, more: number): string {
  const har = JSON.parse(zlib.gunzipSync(file).toString('utf8')) as Har;
  const { entries, pages } = har.log;
  const page = pages[0]?._lens;
  const document = entries.find((e) => e._lens.kind === 'document' && e.response.status === 200);
  const own = entries
    .filter((e) => e._lens.kind === 'image' && e.response.status === 200 && e.response.content.text)
    .filter((e) => page?.observations.pictures.some((p) => p.url === e.request.url))
    .sort((a, b) => (a.response.content.text ?? '').length - (b.response.content.text ?? '').length);
  // Large enough that each is a finding of its own.
  const model = own.find((e) => (e.response.content.text ?? '').length > WORTH_BYTES) ?? own.at(-1);
  const drawn = page?.observations.pictures.find((p) => p.url === model?.request.url);
  if (!page || !document || !model || !drawn) return JSON.stringify(har);
  const markup: string[] = [];
  for (let i = 1; i <= more; i++) {
    const url = model.request.url.replace(/(\.\w+)?$/, `-${i}$1`);
    entries.push({ ...model, request: { ...model.request, url } });
    page.observations.pictures.push({
      ...drawn,
      url,
      path: `html:nth-of-type(1)>body:nth-of-type(1)>img:nth-of-type(${i})`,
      box: { x: (i % 4) * 90, y: 3000 + Math.floor(i / 4) * 90, width: 80, height: 60 },
      visible: true,
    });
    markup.push(`<img src="${url}" alt="Plant ${i}" width="80" height="60">`);
  }
  const add = (html: string) => html.replace(/<\/body>/, `${markup.join('\n')}</body>`);
  document.response.content.text = add(document.response.content.text ?? '');
  page.observations.renderedHtml = add(page.observations.renderedHtml);
  return JSON.stringify(har);
}
