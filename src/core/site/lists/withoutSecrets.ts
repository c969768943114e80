import { redactUrl, Secrets } from '../../capture/redact';
import type { OutsideList } from './outsideList';

/**
 * A list as it may be kept: logs and exports hold addresses with keys and tokens in them. What is secret in one place is
 * cut in all others. The addresses are asked for as they are kept: where a page moves to does not depend on a key.
 */
export function withoutSecrets(list: OutsideList): OutsideList {
  const secrets = new Secrets();
  const cut = (address: string) => redactUrl(address, secrets);
  const rows = list.rows.map((row) => ({
    ...row,
    address: cut(row.address),
    ...(row.source !== undefined && { source: cut(row.source) }),
  }));
  const known = (text: string) => secrets.cutKnown(text, 'address');
  return {
    ...list,
    rows: rows.map((row) => ({
      ...row,
      address: known(row.address),
      ...(row.source !== undefined && { source: known(row.source) }),
      ...(row.title !== undefined && { title: known(row.title) }),
    })),
    unread: { ...list.unread, examples: list.unread.examples.map((text) => known(cut(text))) },
  };
}
