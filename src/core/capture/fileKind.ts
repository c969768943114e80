/** What a file is by its first bytes, for a message to whoever dropped it; undefined for what may be JSON. */
export function strangeKind(bytes: Uint8Array): string | undefined {
  const head = String.fromCharCode(...bytes.subarray(0, 2048));
  const start = head.replace(/^(\xef\xbb\xbf|\xff\xfe|\xfe\xff)/, '').trimStart();
  if (head.startsWith('PK\x03\x04')) {
    // The parts of an Office file (ECMA-376) are named at the start of the archive.
    if (/\bxl\/|worksheets/.test(head)) return 'an Excel workbook (XLSX)';
    if (/\bword\//.test(head)) return 'a Word document (DOCX)';
    return 'a ZIP archive';
  }
  if (head.startsWith('%PDF-')) return 'a PDF document';
  if (head.startsWith('\x89PNG') || head.startsWith('\xff\xd8\xff') || head.startsWith('GIF8')) return 'a picture';
  if (/^WARC\/[\d.]+\r?\n/.test(head)) return 'a web archive (WARC)';
  if (/^(from|mime-version|subject):[^\n]*\n/i.test(start) && /multipart\/related/i.test(head))
    return 'a web archive (MHTML)';
  if (/^<(!doctype html|html)\b/i.test(start)) return 'a saved HTML page';
  if (/^<\?xml|^<\w/.test(start)) return 'an XML document';
  if (start === '' || /^[[{]/.test(start)) return undefined;
  const control = [...head].filter((c) => c < ' ' && !/[\t\r\n\f]/.test(c)).length;
  if (control > head.length / 20) return 'a binary file';
  return /^[^\n]*[,;\t][^\n]*\n[^\n]*[,;\t]/.test(start) ? 'a table in text form (CSV)' : 'plain text';
}
