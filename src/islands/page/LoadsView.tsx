import { useMemo, useRef, useState } from 'react';
import { hostOf, pathOf } from '../../core/capture/url';
import type { StoryAnswer } from '../../workers/benchMessages';
import type { CaptureView, LoadRow } from '../state/types';
import { bytes, ms, tag } from '../ui/format';
import { SearchBox } from '../ui/SearchBox';
import { SortHead, sortRows, type Sort } from '../ui/SortHead';
import { useKeys } from '../ui/useKeys';
import { HeadUnseen } from '../ui/parts';

type Column = 'index' | 'url' | 'status' | 'bytes' | 'found' | 'end' | 'priority';

/** The loads of a page as recorded, with the times this visitor would see. */
export function LoadsView({ view, story }: { view: CaptureView; story?: StoryAnswer }) {
  const search = useRef<HTMLInputElement>(null);
  const [words, setWords] = useState('');
  const [sort, setSort] = useState<Sort<Column>>({ by: 'index', down: false });
  useKeys({ '/': () => search.current?.focus() });
  const rows = useMemo(() => {
    const wanted = words.toLowerCase();
    const value = (l: LoadRow, by: Column): number | string => {
      const t = story?.now.fetches[l.index];
      switch (by) {
        case 'url':
          return l.url;
        case 'status':
          return l.status;
        case 'bytes':
          return l.bytes;
        case 'found':
          return t?.foundMs ?? 0;
        case 'end':
          return t?.endMs ?? 0;
        case 'priority':
          return ['VeryHigh', 'High', 'Medium', 'Low', 'VeryLow'].indexOf(l.priority ?? '');
        case 'index':
          return l.index;
      }
    };
    const shown = view.loads.filter((l) =>
      `${l.url} ${l.kind} ${l.status} ${l.error ?? ''}`.toLowerCase().includes(wanted),
    );
    return sortRows(shown, sort, value);
  }, [view, story, words, sort]);
  const head = (by: Column, name: string, right = false) => (
    <SortHead by={by} sort={sort} onSort={setSort} right={right}>
      {name}
    </SortHead>
  );
  const total = rows.reduce((sum, l) => sum + l.bytes, 0);
  return (
    <>
      <div className="tools">
        <SearchBox what="loads" box={search} value={words} onChange={setWords} />
        <span className="soft">
          {rows.length} of {view.loads.length} loads, {bytes(total)}
        </span>
      </div>
      <div className="scroll">
        <table className="rows loads">
          <thead>
            <tr>
              {head('index', '#')}
              <HeadUnseen>Type</HeadUnseen>
              {head('url', 'Address')}
              {head('status', 'Status')}
              {head('priority', 'Priority')}
              {head('bytes', 'Size', true)}
              {head('found', 'Found at', true)}
              {head('end', 'Finished', true)}
            </tr>
          </thead>
          <tbody>
            {rows.map((l) => {
              const t = story?.now.fetches[l.index];
              const isHero = l.url === view.hero.url;
              return (
                <tr key={l.index} className={isHero ? 'is-hero' : ''}>
                  <td>{l.index + 1}</td>
                  <td className="mono soft">{tag(l.kind)}</td>
                  <td title={l.url}>
                    <span className="path">{pathOf(l.url)}</span> <span className="soft">{hostOf(l.url)}</span>
                    {isHero && <b> hero</b>}
                    {l.error && <span className="cost"> {l.error}</span>}
                  </td>
                  <td>{l.status || '–'}</td>
                  <td className="soft">{priorityWords(l.priority)}</td>
                  <td className="right">{bytes(l.bytes)}</td>
                  <td className="right">{t && t.foundMs >= 0 ? ms(t.foundMs) : '–'}</td>
                  <td className="right">{t && t.endMs >= 0 ? ms(t.endMs) : '–'}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </>
  );
}

function priorityWords(priority: string | undefined): string {
  return priority ? priority.replace(/([a-z])([A-Z])/, '$1 $2').toLowerCase() : '';
}
