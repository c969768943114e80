import { useMemo, useState } from 'react';
import { CONCERNS, type Concern, type Finding, type Harm } from '../../core/checks/finding';
import { groupKey } from '../../core/plan/groupKey';
import type { FixGroup, Stair } from '../../core/plan/staircase';
import { ConcernDots, type ConcernRow } from '../charts/ConcernDots';
import { StaircaseChart } from '../charts/StaircaseChart';
import { useResource } from '../state/api';
import { useBench, type Bench } from '../state/bench';
import { go } from '../state/router';
import type { FindingRow } from '../state/types';
import { change, count, inWords, ms, range } from '../ui/format';
import { Kbd, Loading, MEANS, Term } from '../ui/parts';
import { moveRow, useKeys } from '../ui/useKeys';
import { News } from './News';
import { NotExamined } from './NotExamined';
import { worthOfGroup } from './groupWorth';
import { useWidth } from '../ui/useWidth';

/** The site in one look: the sentence, the slowest hero, the staircase, the concerns, what to fix first. */
export function BriefScreen() {
  const bench = useBench();
  const { ref, width } = useWidth(340);
  const findings = useResource<{ total: number; rows: FindingRow[] }>(
    bench.sweepId === undefined
      ? undefined
      : `/api/sweeps/${bench.sweepId}/findings?device=${bench.data.value?.device ?? 'phone'}&limit=10000`,
  );
  const base = `/sites/${bench.site.value?.id ?? ''}`;
  const openPage = (id: number) => go(`${base}/pages/${id}`);
  const rows = useMemo(() => concernRows(findings.value?.rows ?? [], bench), [findings.value, bench]);
  const { staircase } = bench;
  if (!staircase) return <Loading what="Re-enacting every page for this visitor" />;
  const paying = staircase.staircase.stairs.slice(0, staircase.staircase.paying);
  return (
    <div ref={ref}>
      <h1 className="serif">
        <Sentence paying={paying} />
      </h1>
      <SlowestHero openPage={openPage} />
      <h2>
        Hero painted, after each next fix: average page, best order, range shaded; click a step to put it on the bench
      </h2>
      <StaircaseChart data={staircase.staircase} chosen={bench.chosen} onToggle={bench.toggle} width={width} />
      <h2>What each concern costs: a dot is a page</h2>
      <ConcernDots rows={rows} width={width} open={(c) => go(`${base}/concerns/${c}`)} openPage={openPage} />
      <FixFirst stairs={staircase.staircase.stairs} />
      <News />
      <NotExamined />
    </div>
  );
}

function Sentence({ paying }: { paying: readonly Stair[] }) {
  const { visitor, staircase } = useBench();
  const now = staircase?.staircase.nowMs ?? 0;
  const last = paying.at(-1);
  const early = paying[Math.min(2, paying.length - 1)];
  return (
    <>
      {visitor.who} waits <em>{ms(now)}</em> for the main picture of an <Term means={MEANS.average}>average page</Term>
      {last ? (
        <>
          ; {inWords(paying.length).toLowerCase()} {paying.length === 1 ? 'fix brings' : 'fixes bring'} that to{' '}
          <b>{ms(last.lcpMs)}</b>
          {paying.length > 3 && early ? `, the first three already win ${ms(now - early.lcpMs)}` : ''}.
        </>
      ) : (
        '; no fix known to us would change that by much.'
      )}
    </>
  );
}

function SlowestHero({ openPage }: { openPage: (id: number) => void }) {
  const { staircase, pages, data } = useBench();
  const slow = staircase?.slowest;
  const page = pages.find((p) => p.captureId === slow?.captureId);
  if (!slow || !page) return null;
  const cause = heroCause(page.graph, slow);
  return (
    <p className="lead">
      Slowest hero:{' '}
      <button className="link strong" onClick={() => openPage(slow.captureId)}>
        {page.title || page.graph.page}
      </button>
      , <span className="cost">{ms(slow.lcpMs)}</span>. {cause}{' '}
      <span className="soft">
        {count(data.value?.pages.length ?? 0, 'page')} recorded as {data.value?.device}
        {' · '}
        <a href="#news">news</a>
        {' · '}
        <a href="#not-examined" onClick={() => document.querySelector('#not-examined')?.setAttribute('open', '')}>
          what was not examined
        </a>
      </span>
    </p>
  );
}

/** Why a hero is late, from how its file is found and how its time splits. */
function heroCause(
  graph: { hero: { kind: string; fetch: number }; fetches: readonly { discovery: { by: string } }[] },
  slow: {
    split: { untilFoundMs: number; transferMs: number; serverMs: number; untilPaintedMs: number };
    place: number;
    requests: number;
  },
): string {
  const by = graph.fetches[graph.hero.fetch]?.discovery.by;
  const found = slow.split.untilFoundMs;
  if (by === 'event' || by === 'script')
    return `Its picture waits for a script: the browser learns of it after ${ms(slow.split.serverMs + found)}, as load number ${slow.place} of ${slow.requests}.`;
  if (by === 'style')
    return `Its picture is named only in a stylesheet: the browser learns of it after ${ms(slow.split.serverMs + found)}, as load number ${slow.place} of ${slow.requests}.`;
  if (by === 'layout')
    return `Its picture is marked lazy: the browser asks for it only after layout, ${ms(slow.split.serverMs + found)} in.`;
  const parts = [
    ['its server answers late', slow.split.serverMs],
    ['its picture travels for long, behind other loads', slow.split.transferMs],
    ['it waits to be drawn, behind scripts and stylesheets', slow.split.untilPaintedMs],
  ] as const;
  const [text, spent] = [...parts].sort((a, b) => b[1] - a[1])[0] as (typeof parts)[number];
  return `Most of that, ${ms(spent)}: ${text}.`;
}

const HARMS: readonly Harm[] = ['broken', 'exposed', 'slow', 'tidy'];

function concernRows(findings: readonly Finding[], bench: ReturnType<typeof useBench>): ConcernRow[] {
  return CONCERNS.map(({ id }) => {
    const own = findings.filter((f) => f.concern === id);
    const costs = bench.staircase?.costs.filter((c) => c.concern === id) ?? [];
    return {
      concern: id,
      text: concernText(id, own),
      harm: HARMS.find((h) => own.some((f) => f.harm === h)),
      dots: costs.map((c) => ({
        captureId: c.captureId,
        ms: c.ms,
        title: bench.pages.find((p) => p.captureId === c.captureId)?.title ?? '',
      })),
    };
  });
}

/** The worst of a concern in a few words. */
function concernText(concern: Concern, own: readonly Finding[]): string {
  if (own.length === 0) return 'nothing found';
  const of = (check: string) => own.filter((f) => f.check === check);
  const pagesOf = (list: readonly Finding[]) => new Set(list.map((f) => f.page)).size;
  const places = (list: readonly Finding[]) => new Set(list.map((f) => f.target)).size;
  switch (concern) {
    case 'https': {
      const entrances = of('http-entrance').length;
      const mentions = places(of('http-mention'));
      return [
        entrances > 0 ? `${count(entrances, 'entrance')} by detours` : '',
        mentions > 0 ? `${count(mentions, 'own address', 'own addresses')} named by http` : '',
      ]
        .filter(Boolean)
        .join(', ');
    }
    case 'mixed': {
      const refused = own.filter((f) => f.harm === 'broken');
      return refused.length > 0
        ? `${count(places(refused), 'file')} refused on ${count(pagesOf(refused), 'page')}`
        : `${count(places(own), 'file')} named by http`;
    }
    case 'hero':
      return of('hero-lazy').length > 0
        ? `${count(pagesOf(of('hero-lazy')), 'hero', 'heroes')} kept back, ${pagesOf(of('hero-late'))} late in the queue`
        : `${count(pagesOf(own), 'page')} with a late hero`;
    case 'weight': {
      const saved = new Map(own.map((f) => [f.target + f.check, f.evidence.numbers.savedBytes ?? 0]));
      const total = [...saved.values()].reduce((a, b) => a + b, 0);
      return `${(total / 1e6).toFixed(1)} MB more than is needed`;
    }
    case 'blocking':
      return `${count(places(of('script-blocking')), 'script')} and ${count(places(of('style-blocking')), 'style')} before first paint`;
  }
}

/** The findings that a fix removes, as a list. */
function listBehind(group: FixGroup, bench: Bench): string {
  const [fix] = group.fixes;
  const page = bench.pages.find((p) => p.graph.page === fix?.page);
  const concern = fix?.findings.map((id) => page?.concerns[id]).find(Boolean) ?? 'hero';
  return `/sites/${bench.site.value?.id ?? ''}/concerns/${concern}?fix=${groupKey(group.id)}`;
}

function FixFirst({ stairs }: { stairs: readonly Stair[] }) {
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
        Fix first{' '}
        <span className="soft normal">
          what wins most on top of the fixes above it, and what that is worth over all links to its pages
        </span>
      </h2>
      <table className="rows">
        <tbody>
          {shown.map((s, i) => {
            const on = bench.chosen.includes(s.group.id);
            const worth = worthOfGroup(s.group, bench.staircase?.staircase.alone, bench.pages);
            return (
              <tr key={s.group.id} data-row={i} className={i === row ? 'at' : ''} onClick={() => setRow(i)}>
                <td className="wide-cell">
                  <button className="link plain-link" onClick={() => go(listBehind(s.group, bench))}>
                    {s.group.title}
                  </button>
                </td>
                <td className="soft">
                  {count(s.group.pages, 'page')} · about {s.group.effort} min
                </td>
                <td>
                  <b className={s.wonMs > 40 ? 'gain' : 'soft'}>{change(-s.wonMs)}</b>{' '}
                  <span className="soft">
                    to {ms(s.lcpMs)} ({range(s.range)})
                  </span>
                </td>
                <td className="soft worth-cell">
                  <Term means={worth.text}>worth {worth.short}</Term>
                </td>
                <td className="right">
                  <button className={on ? 'put on' : 'put'} onClick={() => bench.toggle(s.group.id)} aria-pressed={on}>
                    {on ? 'on bench' : 'put on bench'} {i === row && <Kbd>b</Kbd>}
                  </button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {shown.length === 0 && <p className="soft">No fix would change the hero paint of these pages.</p>}
    </>
  );
}
