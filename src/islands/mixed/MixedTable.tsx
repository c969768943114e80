import { useState } from 'react';
import { pathOf } from '../../core/capture/url';
import { MEETS, type Meets, type MixedCell, type MixedPicture } from '../../core/pictures/mixed';
import { useResource } from '../state/api';
import { MissingPictures } from './MissingPictures';
import { mixedPath, type MixedAnswer } from './mixedPath';
import { useBench } from '../state/bench';
import { useLocation } from '../state/location';
import { count } from '../ui/format';
import { useFirstRows } from '../ui/useFirstRows';
import { ErrorBox, Loading, Term } from '../ui/parts';
import { SetTo } from '../ui/SetTo';
import { To } from '../ui/To';

const WORDS: Readonly<Record<Meets, { mark: string; name: string; means: string }>> = {
  blocked: { mark: '✕', name: 'blocked', means: 'The browser refuses it: it is missing from the page.' },
  'upgrade fails': {
    mark: '!',
    name: 'upgraded and fails',
    means: 'The browser asks for it over https instead, and gets nothing that works.',
  },
  allowed: { mark: '◧', name: 'insecure but allowed', means: 'It is asked for or sent over http once it is used.' },
  upgraded: {
    mark: '↑',
    name: 'upgraded and fine',
    means: 'The browser asks for it over https instead, and that works.',
  },
  masked: { mark: '·', name: 'masked', means: 'upgrade-insecure-requests hides it; other readers of the page do not.' },
};

/** Pages by insecure host: what a visitor meets, where it is written, whether the https version works. */
export function MixedTable() {
  const { sweepId, data } = useBench();
  const { query } = useLocation();
  const [open, setOpen] = useState<string>();
  const chosen = MEETS.find((m) => m === query.get('meets'));
  const found = useResource<MixedAnswer>(
    sweepId === undefined ? undefined : mixedPath(sweepId, data.value?.device ?? 'phone'),
  );
  const shown = (found.value?.pages ?? []).filter(
    (p) => !chosen || p.cells.some((c) => c.items.some((i) => i.meets === chosen)),
  );
  const drawn = useFirstRows(shown);
  if (found.error) return <ErrorBox error={found.error} retry={found.reload} />;
  if (!found.value) return <Loading what="Reading mixed content" />;
  const { hosts, pages, clean, missing } = found.value;
  if (pages.length === 0)
    return (
      <p className="serif big">
        {clean === 1 ? 'The recorded page fetches' : `All ${clean} recorded pages fetch`} everything over https.
      </p>
    );
  const items = pages.flatMap((p) => p.cells.flatMap((c) => c.items));
  const counts = MEETS.map((m) => ({ meets: m, n: items.filter((i) => i.meets === m).length })).filter((c) => c.n > 0);
  const blocked = pages.filter((p) => p.cells.some((c) => c.meets === 'blocked' || c.meets === 'upgrade fails')).length;
  return (
    <section aria-label="Mixed content by page and host">
      <p className="serif big">
        {blocked > 0
          ? `On ${count(blocked, 'page')} something is missing for visitors, since it is fetched over http`
          : `Nothing is missing for visitors, but ${count(pages.length, 'page names', 'pages name')} http addresses`}
        ; {count(clean, 'recorded page')} {clean === 1 ? 'is' : 'are'} free of mixed content.
      </p>
      <p className="tools">
        {counts.map(({ meets, n }) => (
          <SetTo
            key={meets}
            role="button"
            className={meets === chosen ? 'chip on' : 'chip'}
            aria-pressed={meets === chosen}
            changes={{ meets: meets === chosen ? null : meets }}
          >
            <span aria-hidden>{WORDS[meets].mark}</span> {WORDS[meets].name} <b>{n}</b>
          </SetTo>
        ))}
      </p>
      <div className="mixed-scroll">
        <table className="grid mixed">
          <thead>
            <tr>
              <th>Page</th>
              {hosts.map((h) => (
                <th key={h} className="mono">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {drawn.map((p) => (
              <MixedRow
                key={p.captureId}
                page={p}
                hosts={hosts}
                chosen={chosen}
                open={open}
                onOpen={(key) => setOpen(key === open ? undefined : key)}
              />
            ))}
          </tbody>
        </table>
      </div>
      <p className="soft small">
        {counts.map(({ meets }) => (
          <span key={meets} className="mixed-key">
            <span aria-hidden>{WORDS[meets].mark}</span> <Term means={WORDS[meets].means}>{WORDS[meets].name}</Term>
          </span>
        ))}
      </p>
      <MissingPictures missing={missing} />
    </section>
  );
}

function MixedRow(props: {
  page: MixedPicture['pages'][number];
  hosts: readonly string[];
  chosen?: Meets;
  open?: string;
  onOpen: (key: string) => void;
}) {
  const { siteId } = useBench();
  const { page, hosts, chosen, open } = props;
  const at = page.cells.find((c) => open === `${page.captureId} ${c.host}`);
  return (
    <>
      <tr>
        <td className="mono break">
          <To to={`/sites/${siteId}/pages/${page.captureId}`}>{pathOf(page.page)}</To>
        </td>
        {hosts.map((h) => {
          const cell = page.cells.find((c) => c.host === h);
          const items = cell?.items.filter((i) => !chosen || i.meets === chosen) ?? [];
          if (!cell || items.length === 0) return <td key={h} />;
          const meets = chosen ?? cell.meets;
          const key = `${page.captureId} ${h}`;
          return (
            <td key={h}>
              <button
                className={`mixed-cell ${meets === 'blocked' || meets === 'upgrade fails' ? 'cost' : ''}`}
                aria-expanded={open === key}
                onClick={() => props.onOpen(key)}
              >
                <span aria-hidden>{WORDS[meets].mark}</span> {WORDS[meets].name}{' '}
                <span className="soft">{items.length > 1 ? `${items.length} addresses` : items[0]?.written}</span>
              </button>
            </td>
          );
        })}
      </tr>
      {at && (
        <tr>
          <td colSpan={hosts.length + 1}>
            <Items captureId={page.captureId} items={at.items.filter((i) => !chosen || i.meets === chosen)} />
          </td>
        </tr>
      )}
    </>
  );
}

function Items({ captureId, items }: { captureId: number; items: MixedCell['items'] }) {
  const { siteId } = useBench();
  return (
    <ul className="small">
      {items.map((i) => (
        <li key={i.finding}>
          <To to={`/sites/${siteId}/pages/${captureId}?tab=findings&finding=${i.finding}`}>
            <span className="mono break">{i.url}</span>
          </To>{' '}
          {WORDS[i.meets].name}, written in {i.written === 'form' ? 'a form' : `the ${i.written}`};{' '}
          {i.https === undefined ? (
            <span className="soft">its https version was not probed</span>
          ) : (
            `https version: ${i.https}`
          )}
        </li>
      ))}
    </ul>
  );
}
