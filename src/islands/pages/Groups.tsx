import { useState } from 'react';
import type { PageGroup } from '../../engine/store/pageSummary';
import { bytes, ms } from '../ui/format';
import { SortHead, sortRows, type Sort } from '../ui/SortHead';

type Column = 'name' | 'pages' | 'answerMs' | 'decodedBytes' | 'linksIn' | 'mentions' | 'errors' | 'captures';

/** Pages by folder or template; a click shows the pages of one. */
export function Groups(props: {
  by: 'folder' | 'template';
  groups: readonly PageGroup[];
  onOpen: (value: string) => void;
}) {
  const [sort, setSort] = useState<Sort<Column>>({ by: 'pages', down: true });
  const rows = sortRows(props.groups, sort, (g, by) => g[by] ?? 0);
  const head = (by: Column, name: string) => (
    <SortHead by={by} sort={sort} onSort={setSort} right={by !== 'name'} downFirst={by !== 'name'}>
      {name}
    </SortHead>
  );
  return (
    <table className="rows">
      <thead>
        <tr>
          {head('name', props.by === 'folder' ? 'Folder' : 'Template')}
          {head('pages', 'Pages')}
          {head('captures', 'Recorded')}
          {head('errors', 'Errors')}
          {head('linksIn', 'Links in')}
          {head('mentions', 'http:// URLs')}
          {head('answerMs', 'Answer, average')}
          {head('decodedBytes', 'HTML, average')}
        </tr>
      </thead>
      <tbody>
        {rows.map((g) => (
          <tr key={g.value} className="clickable" onClick={() => props.onOpen(g.value)}>
            <td>
              <button className="link mono" onClick={(e) => (e.stopPropagation(), props.onOpen(g.value))}>
                {g.name}
              </button>
            </td>
            <td className="right">{g.pages.toLocaleString('en-GB')}</td>
            <td className="right">{g.captures}</td>
            <td className={g.errors > 0 ? 'right cost' : 'right'}>{g.errors}</td>
            <td className="right">{g.linksIn.toLocaleString('en-GB')}</td>
            <td className="right">{g.mentions.toLocaleString('en-GB')}</td>
            <td className="right">{g.answerMs === null ? '–' : ms(g.answerMs)}</td>
            <td className="right">{g.decodedBytes === null ? '–' : bytes(g.decodedBytes)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
