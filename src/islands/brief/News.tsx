import type { News as SweepNewsLists, SweepCause } from '../../core/site/news';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { useLocation } from '../state/location';
import type { SweepNews } from '../state/types';
import { count, day } from '../ui/format';
import { ErrorBox, HarmMark } from '../ui/parts';
import { To } from '../ui/To';

/** What is new, gone or came back since an older sweep; each opens the list behind it. */
export function News() {
  const bench = useBench();
  const { query } = useLocation();
  const against = query.get('with');
  const found = useResource<SweepNews>(
    bench.sweepId === undefined
      ? undefined
      : `/api/sweeps/${bench.sweepId}/news?device=${bench.data.value?.device ?? 'phone'}${against ? `&with=${against}` : ''}`,
  );
  if (found.error) return <ErrorBox error={found.error} retry={found.reload} />;
  if (!found.value) return null;
  const { news, against: older } = found.value;
  if (!news || !older)
    return (
      <p className="soft" id="news">
        This is the first sweep with recordings. After the next one you see here what is new, resolved or back again.
      </p>
    );
  const parts = newsParts(news);
  return (
    <section id="news" aria-label="News">
      <h2>
        Since {day(older.day)}{' '}
        <span className="soft normal">
          {parts.map((p) => p.text).join(', ') || 'nothing changed'}; {news.stayed} unchanged
        </span>
      </h2>
      <Pages added={news.pagesAdded} dropped={news.pagesDropped} />
      <table className="rows">
        <tbody>
          {parts.flatMap((p) =>
            p.list
              .slice(0, SHOWN)
              .map((c, i) => (
                <NewsRow key={c.cause} word={i === 0 ? p.word : ''} cause={c} sweep={p.old ? older.id : undefined} />
              )),
          )}
        </tbody>
      </table>
      {parts.some((p) => p.list.length > SHOWN) && (
        <p className="soft">
          {parts
            .filter((p) => p.list.length > SHOWN)
            .map((p) => `${p.list.length - SHOWN} more ${p.word}`)
            .join(', ')}
          .
        </p>
      )}
    </section>
  );
}

/** Pages that only one of the two sweeps recorded. */
function Pages({ added, dropped }: { added: readonly string[]; dropped: readonly string[] }) {
  if (added.length + dropped.length === 0) return null;
  const list = (pages: readonly string[], word: string) =>
    pages.length > 0 && (
      <details>
        <summary>
          {count(pages.length, 'page')} {word}
        </summary>
        <ul className="mono small">
          {pages.map((p) => (
            <li key={p}>{p}</li>
          ))}
        </ul>
      </details>
    );
  return (
    <div className="soft">
      {list(added, 'added')}
      {list(dropped, 'not recorded again')}
    </div>
  );
}

const SHOWN = 5;

/** The lists of a news that hold anything, with their words. */
export function newsParts(news: SweepNewsLists) {
  return [
    { word: 'back again', old: false, list: news.cameBack, text: `${news.cameBack.length} back again` },
    { word: 'new', old: false, list: news.appeared, text: `${news.appeared.length} new` },
    { word: 'resolved', old: true, list: news.gone, text: `${news.gone.length} resolved` },
    {
      word: 'not checked again',
      old: true,
      list: news.notLookedAt,
      text: `${news.notLookedAt.length} not checked again`,
    },
  ].filter((p) => p.list.length > 0);
}

function NewsRow({ word, cause, sweep }: { word: string; cause: SweepCause; sweep?: number }) {
  const { base } = useBench();
  const to = `${base}/concerns/${cause.concern}?cause=${encodeURIComponent(cause.cause)}${sweep === undefined ? '' : `&sweep=${sweep}`}`;
  return (
    <tr>
      <td className="strong">{word}</td>
      <td>
        <HarmMark harm={cause.harm} />
      </td>
      <td className="wide-cell">
        <To to={to}>{cause.title}</To>
      </td>
      <td className="soft right">{count(cause.pages.length, 'page')}</td>
    </tr>
  );
}
