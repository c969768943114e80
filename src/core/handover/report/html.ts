import { encodeBase64 } from '../../capture/base64';

/** Text that is markup already; everything else that goes into a report is escaped. */
export class Html {
  constructor(readonly text: string) {}
}

export type Part = Html | string | number | undefined | false | readonly Part[];

const escape = (text: string) =>
  text.replace(/[&<>"']/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' })[c] ?? c);

/** What goes into a document: text is escaped. */
export const partText = (part: Part): string =>
  part === undefined || part === false
    ? ''
    : part instanceof Html
      ? part.text
      : Array.isArray(part)
        ? part.map(partText).join('')
        : escape(String(part as string | number));

/** A template of HTML: what is put in is text unless it is `Html` itself. */
export function html(strings: TemplateStringsArray, ...parts: Part[]): Html {
  return new Html(strings.reduce((out, s, i) => out + s + (i < parts.length ? partText(parts[i]) : ''), ''));
}

/** A picture inside the document (RFC 2397). */
export function dataAddress(bytes: Uint8Array): string {
  const type = bytes[0] === 0x89 ? 'image/png' : 'image/jpeg';
  return `data:${type};base64,${encodeBase64(bytes)}`;
}

const STYLE = `
:root{--paper:#fbf8f1;--ink:#23302b;--soft:#5b665f;--line:#d8d2c3;--now:#9a4f22;--after:#1d6660;--wash:#f1ecdf}
*{box-sizing:border-box}
body{margin:0;background:var(--paper);color:var(--ink);font:15px/1.55 "Public Sans","Helvetica Neue",Arial,sans-serif;font-variant-numeric:tabular-nums}
main{max-width:820px;margin:0 auto;padding:36px 28px 60px}
h1,h2,.lead{font-family:"Source Serif 4",Georgia,serif}
h1{font-size:30px;line-height:1.2;margin:0 0 6px}
h2{font-size:21px;margin:38px 0 10px;padding-top:12px;border-top:1px solid var(--line);break-after:avoid}
h3{font-size:15px;margin:22px 0 6px;break-after:avoid}
p{margin:8px 0}
.lead{font-size:21px;line-height:1.45;margin:18px 0}
.soft,caption,.note{color:var(--soft)}
.now{color:var(--now);font-weight:600}.after{color:var(--after);font-weight:600}
table{border-collapse:collapse;width:100%;margin:10px 0;font-size:14px}
caption{text-align:left;padding-bottom:4px}
th,td{text-align:left;vertical-align:top;padding:6px 10px 6px 0;border-bottom:1px solid var(--line)}
th{font-weight:600}
td.n,th.n{text-align:right;white-space:nowrap}
tr{break-inside:avoid}tr:has(th){break-after:avoid}.keep{break-after:avoid}
pre{font:12.5px/1.5 "IBM Plex Mono",ui-monospace,Menlo,monospace;background:var(--wash);padding:10px 12px;margin:8px 0;white-space:pre-wrap;overflow-wrap:anywhere;break-inside:avoid}
code{font:12.5px "IBM Plex Mono",ui-monospace,Menlo,monospace;overflow-wrap:anywhere}
figure{margin:14px 0;break-inside:avoid}
.screens{display:grid;grid-template-columns:repeat(auto-fit,minmax(200px,1fr));gap:18px}
.screens img{display:block;width:100%;max-height:330px;object-fit:cover;object-position:top;border:1px solid var(--line)}
figcaption{font-size:13px;color:var(--soft);padding-top:6px;overflow-wrap:anywhere}
header.firm{display:flex;gap:14px;align-items:center;padding-bottom:12px;margin-bottom:22px;border-bottom:3px solid var(--ink);font-weight:600}
header.firm img{display:block;max-height:52px;max-width:200px}
.foreword{font-family:"Source Serif 4",Georgia,serif;font-size:16px}
.film{table-layout:fixed}.film th:first-child{width:84px}.film img{display:block;width:100%;border:1px solid var(--line)}.film td,.film th{padding:4px 4px 4px 0;border:0;font-size:12px}
svg text{font:12px "Public Sans",Arial,sans-serif;fill:var(--ink)}
a{color:inherit}
dl{margin:8px 0}dt{font-weight:600}dd{margin:0 0 8px}
@page{size:A4;margin:18mm 16mm 20mm}
@media print{body{background:#fff;font-size:11pt}.screens img{max-height:250px}main{max-width:none;padding:0}h2{margin-top:26px}a{text-decoration:none}}`;

/**
 * A whole document: one file, without scripts, that also prints.
 * @param more.style more rules; written here, never by others
 */
export function documentOf(title: string, content: Html, { style = '', language = 'en' } = {}): string {
  return `<!doctype html>
<html lang="${escape(language)}">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; img-src data:; font-src data:; style-src 'unsafe-inline'">
<title>${escape(title)}</title>
<style>${STYLE}${style}</style>
</head>
<body><main>
${content.text}
</main></body>
</html>
`;
}
