import type { ReactNode } from 'react';
import { FILE_GROUPS, weightSentence, type FileGroup, type FileSum } from '../../core/pictures/fileQuery';
import { fileName, pathOf } from '../../core/capture/url';
import type { FileGroupsAnswer } from '../../engine/services/filesLists';
import { fileGroupsPath, narrowedTo } from '../files/filesPath';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { useLocation } from '../state/location';
import { bytes, count } from '../ui/format';
import { ErrorBox, Loading, Term } from '../ui/parts';
import { SetTo } from '../ui/SetTo';
import { To } from '../ui/To';
import { useWidth } from '../ui/useWidth';
import { weightAreas } from './areasLayout';
import { groupedBy } from './groupedBy';
import { PictureCompare } from './PictureCompare';

const HEIGHT = 260;
/** What a group of each kind is narrowed to next. */
const NEXT: Readonly<Record<FileGroup, FileGroup>> = {
  type: 'file',
  host: 'file',
  directory: 'file',
  page: 'file',
  template: 'page',
  file: 'file',
};

/** Bytes delivered against bytes needed, as areas; each narrows to what is in it. */
export function WeightAreas() {
  const { sweepId, data, siteId } = useBench();
  const { query } = useLocation();
  const { ref, width } = useWidth(300);
  const device = data.value?.device ?? 'phone';
  const by = groupedBy(query);
  const found = useResource<FileGroupsAnswer>(
    sweepId === undefined ? undefined : fileGroupsPath(sweepId, device, query, by),
  );
  const areas = weightAreas(found.value?.groups ?? [], width, HEIGHT);
  const narrowed = FILE_GROUPS.filter((g) => query.get(g));
  const nameOf = (g: Pick<FileSum, 'name'>) =>
    by === 'file' ? fileName(g.name) : by === 'page' ? pathOf(g.name) : g.name;
  const file = query.get('file');
  return (
    <section aria-label="Bytes delivered and needed" ref={ref}>
      {found.error && <ErrorBox error={found.error} retry={found.reload} />}
      {!found.value && !found.error && <Loading what="Counting bytes" />}
      {found.value && (
        <>
          <p className="serif big">{weightSentence(found.value.total)}</p>
          <p className="tools">
            <span className="soft">By</span>
            {FILE_GROUPS.map((g) => (
              <SetTo
                key={g}
                role="button"
                className={g === by ? 'strong' : 'link'}
                aria-pressed={g === by}
                changes={{ by: g === 'type' ? null : g }}
              >
                {g}
              </SetTo>
            ))}
            <Term means="What the pages would still need after the one fix of each file that saves most: compressed, re-encoded at its drawn size, without unused rules, or not sent at all.">
              needed
            </Term>{' '}
            <i className="weight-swatch needed" aria-hidden /> of delivered <i className="weight-swatch" aria-hidden />
          </p>
          <p className="tools crumbs" role="navigation" aria-label="Narrowed to">
            <SetTo
              role="button"
              className="link"
              changes={{ ...Object.fromEntries(FILE_GROUPS.map((g) => [g, null])), by: null }}
            >
              All files
            </SetTo>
            {narrowed.map((g) => (
              <span key={g}>
                {' '}
                › <span className="mono">{shownKey(g, query.get(g) ?? '', data.value?.pages)}</span>{' '}
                <SetTo role="button" className="link" changes={{ [g]: null }} aria-label={`Remove ${g}`}>
                  ×
                </SetTo>
              </span>
            ))}
          </p>
          {areas.length === 0 ? (
            <p className="soft">No file fits.</p>
          ) : (
            <svg width={width} height={HEIGHT} className="weight-areas" role="group" aria-label={`Areas by ${by}`}>
              {areas.map(({ group, x, y, width: w, height: h, needed }) => (
                <Area key={group.key || 'rest'} by={by} group={group} x={x} y={y}>
                  <title>{`${group.name}: ${bytes(group.delivered)} delivered, ${bytes(group.needed)} needed, ${count(group.files, 'file')}`}</title>
                  <rect width={w} height={h} className="weight-area" />
                  <rect y={h - needed} width={w} height={needed} className="weight-area needed" />
                  {w > 64 && h > 30 && (
                    <>
                      <text x={6} y={15} className="k halo">
                        {cut(nameOf(group), Math.floor((w - 10) / 6.4))}
                      </text>
                      <text x={6} y={28} className="halo">
                        {cut(`${bytes(group.delivered)}, ${bytes(group.needed)} needed`, Math.floor((w - 10) / 5.8))}
                      </text>
                    </>
                  )}
                </Area>
              ))}
            </svg>
          )}
          <details className="twin" open={file !== null}>
            <summary>The same as a table</summary>
            <table>
              <thead>
                <tr>
                  <th>{by}</th>
                  <th>Files</th>
                  <th>Delivered</th>
                  <th>Needed</th>
                  <th>Excess</th>
                </tr>
              </thead>
              <tbody>
                {found.value.groups.slice(0, 100).map((g) => (
                  <tr key={g.key}>
                    <td className="break">
                      <SetTo role="button" className="link" changes={{ ...narrowedTo(by, g.key), by: NEXT[by] }}>
                        {nameOf(g)}
                      </SetTo>
                    </td>
                    <td className="right">{g.files}</td>
                    <td className="right">{bytes(g.delivered)}</td>
                    <td className="right">{bytes(g.needed)}</td>
                    <td className="right cost">{bytes(g.delivered - g.needed)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </details>
          <p>
            <To to={`/sites/${siteId}/files?${filesQuery(query)}`} className="link">
              {count(found.value.total.files, 'file')} as a list
            </To>{' '}
            <a href={`/api/sweeps/${sweepId ?? 0}/versions/all`} download className="link">
              All own pictures that are too large, re-encoded (ZIP)
            </a>
          </p>
        </>
      )}
      {file !== null && sweepId !== undefined && <PictureCompare key={file} sweepId={sweepId} url={file} />}
    </section>
  );
}

/** An area that narrows to what is in it; the rest of many cannot. */
function Area({
  by,
  group,
  x,
  y,
  children,
}: {
  by: FileGroup;
  group: FileSum;
  x: number;
  y: number;
  children: ReactNode;
}) {
  const move = `translate(${x},${y})`;
  if (group.key === '') return <g transform={move}>{children}</g>;
  return (
    <g transform={move}>
      <SetTo role="button" changes={{ ...narrowedTo(by, group.key), by: NEXT[by] }}>
        {children}
      </SetTo>
    </g>
  );
}

const cut = (text: string, most: number) => (text.length > most ? `${text.slice(0, Math.max(1, most - 1))}…` : text);

function filesQuery(query: URLSearchParams): string {
  const out = new URLSearchParams();
  for (const g of FILE_GROUPS) {
    const value = query.get(g);
    if (value) out.set(g, value);
  }
  return out.toString();
}

/** What a group is, for people. */
function shownKey(
  group: FileGroup,
  key: string,
  pages:
    | readonly {
        readonly row: { readonly id: number; readonly page: string };
        readonly template?: { id: string; name: string };
      }[]
    | undefined,
): string {
  if (group === 'page') return pathOf(pages?.find((p) => String(p.row.id) === key)?.row.page ?? key);
  if (group === 'template') return pages?.find((p) => p.template?.id === key)?.template?.name ?? key;
  if (group === 'file') return fileName(key);
  return key.replace(' /', '/');
}
