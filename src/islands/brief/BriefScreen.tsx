import { useMemo, useState } from 'react';
import { CONCERNS, type Harm } from '../../core/checks/concern';
import { groupKey } from '../../core/plan/groupKey';
import type { BriefCauses } from '../../core/plan/briefCauses';
import type { GroupInfo, SlowestHero, SweepStair } from '../../core/plan/sweepForecast';
import { ConcernDots, type ConcernRow } from '../charts/ConcernDots';
import { StaircaseChart } from '../charts/StaircaseChart';
import { FieldLine } from '../field/FieldLine';
import { useResource } from '../state/api';
import { useBench, type Bench } from '../state/bench';
import { go } from '../state/location';
import { effectText, count, inWords, ms, range } from '../ui/format';
import { ErrorBox, HarmMark, Kbd, Loading, MEANS, Term } from '../ui/parts';
import { moveRow, useKeys } from '../ui/useKeys';
import { briefPath } from './briefPath';
import { News } from './News';
import { NotExamined } from './NotExamined';
import { worthOfGroup } from './groupWorth';
import { useWidth } from '../ui/useWidth';
import { To } from '../ui/To';
import { island } from '../frame/island';

/** The site in one look: the sentence, the slowest hero, the staircase, the concerns, what to fix first. */
export function BriefScreen() {
  const bench = useBench();
  const { ref, width } = useWidth(340);
  const found = useResource<BriefCauses>(
    bench.sweepId === undefined ? undefined : briefPath(bench.sweepId, bench.data.value?.device ?? 'phone'),
  );
  const base = bench.base;
  const openPage = (id: number) => go(`${base}/pages/${id}`);
  const causes = found.value;
  const rows = useMemo(() => concernRows(causes, bench), [causes, bench]);
  const { forecast, forecastFault } = bench;
  if (!forecast && forecastFault.error) return <ErrorBox error={forecastFault.error} retry={forecastFault.reload} />;
  if (!forecast) return <Loading what="Simulating every page for this visitor" />;
  const { staircase } = forecast;
  const paying = staircase.stairs.slice(0, staircase.paying);
  return (
    <div ref={ref}>
      <h1 className="serif">
        <Sentence paying={paying} />
      </h1>
      <SlowestHero openPage={openPage} />
      <FieldLine row={bench.data.value?.pages.find((p) => p.row.id === forecast.slowest?.captureId)?.field} />
      <h2>
        Hero paint (LCP) after each fix{' '}
        <span className="soft normal">average page, best order, range shaded; click a step to put it on the bench</span>
      </h2>
      <StaircaseChart data={staircase} chosen={bench.chosen} onToggle={bench.toggle} width={width} />
      {found.error && <ErrorBox error={found.error} retry={found.reload} />}
      {causes && <MendFirst causes={causes} />}
      <SpeedUpFirst stairs={staircase.stairs} />
      <h2>Delay by concern (one dot per page)</h2>
      <ConcernDots
        rows={rows}
        width={width}
        open={(c, harm) => go(`${base}/concerns/${c}${harm ? `?harm=${harm}` : ''}`)}
        openPage={openPage}
      />
      <News />
      <NotExamined />
    </div>
  );
}

function Sentence({ paying }: { paying: readonly SweepStair[] }) {
  const { visitor, forecast } = useBench();
  const now = forecast?.staircase.nowMs ?? 0;
  const last = paying.at(-1);
  const early = paying[Math.min(2, paying.length - 1)];
  return (
    <>
      {visitor.who} waits <em>{ms(now)}</em> for the main picture of an <Term means={MEANS.average}>average page</Term>
      {last ? (
        <>
          ; {inWords(paying.length).toLowerCase()} {paying.length === 1 ? 'fix brings' : 'fixes bring'} that to{' '}
          <b>{ms(last.lcpMs)}</b>
          {paying.length > 3 && early ? `, the first three already save ${ms(now - early.lcpMs)}` : ''}.
        </>
      ) : (
        '; no fix known to us changes that by much.'
      )}
    </>
  );
}

function SlowestHero({ openPage }: { openPage: (id: number) => void }) {
  const { forecast, pages, data } = useBench();
  const slow = forecast?.slowest;
  const page = pages.find((p) => p.captureId === slow?.captureId);
  if (!slow || !page) return null;
  const cause = heroCause(slow);
  return (
    <p className="lead">
      Slowest hero:{' '}
      <button className="link strong" onClick={() => openPage(slow.captureId)}>
        {page.title || page.page}
      </button>
      , <span className="cost">{ms(slow.lcpMs)}</span>. {cause}{' '}
      <span className="soft">
        {count(data.value?.pages.length ?? 0, 'page')} recorded as {data.value?.device}
        {' · '}
        <a href="#news">news</a>
        {' · '}
        <a href="#not-examined" onClick={() => document.querySelector('#not-examined')?.setAttribute('open', '')}>
          not examined
        </a>
      </span>
    </p>
  );
}

/** Why a hero is late, from how its file is found and how its time splits. */
function heroCause(slow: SlowestHero): string {
  const by = slow.foundBy;
  const found = slow.split.untilFoundMs;
  if (by === 'event' || by === 'script')
    return `Its picture waits for a script: the browser discovers it at ${ms(slow.split.serverMs + found)} (request ${slow.place} of ${slow.requests}).`;
  if (by === 'style')
    return `Its picture is named only in a stylesheet: the browser discovers it at ${ms(slow.split.serverMs + found)} (request ${slow.place} of ${slow.requests}).`;
  if (by === 'layout')
    return `Its picture is lazy-loaded: the browser requests it after layout, at ${ms(slow.split.serverMs + found)}.`;
  const parts = [
    ['its server responds late', slow.split.serverMs],
    ['its picture is transferred slowly, behind other loads', slow.split.transferMs],
    ['it waits to be painted, behind scripts and stylesheets', slow.split.untilPaintedMs],
  ] as const;
  const [text, spent] = [...parts].sort((a, b) => b[1] - a[1])[0] as (typeof parts)[number];
  return `Most of that, ${ms(spent)}: ${text}.`;
}

const HARMS: readonly Harm[] = ['broken', 'exposed', 'slow', 'tidy'];

function concernRows(causes: BriefCauses | undefined, bench: ReturnType<typeof useBench>): ConcernRow[] {
  const titles = new Map(bench.pages.map((p) => [p.captureId, p.title]));
  return CONCERNS.map(({ id }) => {
    const own = causes?.concerns.find((c) => c.concern === id);
    const costs = bench.forecast?.costs[id] ?? [];
    return {
      concern: id,
      counts: HARMS.map((harm) => ({ harm, causes: own?.counts[harm] ?? 0 })).filter((c) => c.causes > 0),
      worst: own?.worst,
      dots: costs.map(([captureId, ms]) => ({ captureId, ms, title: titles.get(captureId) ?? '' })),
    };
  });
}

/** What breaks or exposes visitors: no seconds, but what, where and for how many. */
function MendFirst({ causes }: { causes: BriefCauses }) {
  const { base } = useBench();
  const shown = causes.urgent.slice(0, MENDED);
  const counts = CONCERNS.map(({ id, name }) => {
    const { broken = 0, exposed = 0 } = causes.concerns.find((c) => c.concern === id)?.counts ?? {};
    return { id, name, n: broken + exposed };
  });
  const urgent = counts.reduce((sum, c) => sum + c.n, 0);
  return (
    <section aria-label="Mend first">
      <h2>
        Mend first{' '}
        <span className="soft normal">
          {urgent === 0
            ? 'nothing found that browsers block or warn about, or that can be read in transit'
            : 'what browsers block or warn about, or what can be read in transit'}
        </span>
      </h2>
      <table className="rows">
        <tbody>
          {shown.map((c) => {
            const to = `${base}/concerns/${c.concern}?cause=${encodeURIComponent(c.cause)}`;
            return (
              <tr key={c.cause}>
                <td>
                  <HarmMark harm={c.harm} />
                </td>
                <td className="wide-cell">
                  <To to={to}>{c.title}</To>
                  {c.targets > 1 && <span className="soft"> and {c.targets - 1} more like it</span>}
                </td>
                <td className="soft right">{count(c.pages, 'page')}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {urgent > shown.length && (
        <p className="soft">
          {counts
            .filter((c) => c.n > 0)
            .map((c, i) => {
              const to = `${base}/concerns/${c.id}?harm=broken,exposed`;
              return (
                <span key={c.id}>
                  {i > 0 && ', '}
                  <To to={to}>
                    all {c.n} of {c.name}
                  </To>
                </span>
              );
            })}
        </p>
      )}
    </section>
  );
}

const MENDED = 6;

/** The findings that a fix removes, as a list. */
const listBehind = (group: GroupInfo, bench: Bench): string =>
  `${bench.base}/concerns/${group.concern}?fix=${groupKey(group.id)}`;

function SpeedUpFirst({ stairs }: { stairs: readonly SweepStair[] }) {
  const bench = useBench();
  const [row, setRow] = useState(0);
  const shown = stairs.slice(0, 8);
  useKeys({
    j: () => setRow((r) => moveRow(r, 1, shown.length)),
    k: () => setRow((r) => moveRow(r, -1, shown.length)),
    b: () => shown[row] && bench.toggle(shown[row].group.id),
  });
  return (
    <>
      <h2>
        Speed up first <span className="soft normal">what each fix saves on top of those above it</span>
      </h2>
      <table className="rows">
        <tbody>
          {shown.map((s, i) => {
            const on = bench.chosen.includes(s.group.id);
            const worth = worthOfGroup(s.gains, bench.pages, bench.data.value?.clicksOf);
            return (
              <tr key={s.group.id} data-row={i} className={i === row ? 'at' : ''} onClick={() => setRow(i)}>
                <td className="wide-cell">
                  <To className="link plain-link" to={listBehind(s.group, bench)}>
                    {s.group.title}
                  </To>
                </td>
                <td className="soft">
                  {count(s.group.pages, 'page')} · about {s.group.effort} min
                </td>
                <td>
                  <b className={s.wonMs > 40 ? 'gain' : 'soft'}>{effectText(-s.wonMs)}</b>{' '}
                  <span className="soft">
                    then {ms(s.lcpMs)} ({range(s.range)})
                  </span>
                </td>
                <td className="soft worth-cell">
                  <Term means={worth.text}>{worth.short}</Term>
                </td>
                <td className="right">
                  <button className={on ? 'put on' : 'put'} onClick={() => bench.toggle(s.group.id)} aria-pressed={on}>
                    {on ? 'on the bench' : 'Put on the bench'} {i === row && <Kbd>b</Kbd>}
                  </button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {shown.length === 0 && <p className="soft">No fix changes the hero paint (LCP) of these pages.</p>}
    </>
  );
}

export default island(BriefScreen, 'recordings');
