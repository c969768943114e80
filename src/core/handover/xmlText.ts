/** What XML 1.0 (2.2) does not allow */
const NOT_XML = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g;

/** Text as it may stand in XML, between tags or in a quoted attribute. */
export const xmlText = (text: string): string =>
  text
    .replace(NOT_XML, '')
    .replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c] ?? c);
