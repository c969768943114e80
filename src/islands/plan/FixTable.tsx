import { useState } from 'react';
import { OVERLAP_MS } from '../../core/plan/thresholds';
import { FIX_STATES, type FixState } from '../../core/plan/plan';
import type { GroupInfo } from '../../core/plan/sweepForecast';
import type { BenchAnswer } from '../../workers/benchMessages';
import { useBench, useBenchAnswer, type Bench } from '../state/bench';
import { NO_DETAILS, usePlanDraft } from '../state/planDraft';
import { effectText, effectRangeText, count, ms } from '../ui/format';
import { Term, HeadUnseen } from '../ui/parts';
import { groupKey } from '../../core/plan/groupKey';
import { ProofWarning } from '../proofs/ProofWarning';
import { To } from '../ui/To';
import { moveRow, useKeys } from '../ui/useKeys';
import { useReorder } from '../ui/useReorder';

/** The fixes on the bench in their order: what each wins, and who does it until when. */
export function FixTable({ siteId }: { siteId: number }) {
  const bench = useBench();
  const [row, setRow] = useState(0);
  const rowProps = useReorder(bench.chosen, bench.move);
  useKeys({
    j: () => setRow((r) => moveRow(r, 1, bench.chosen.length)),
    k: () => setRow((r) => moveRow(r, -1, bench.chosen.length)),
    x: () => bench.chosen[row] && bench.toggle(bench.chosen[row]),
    b: () => bench.chosen[row] && bench.toggle(bench.chosen[row]),
  });
  return (
    <div className="scroll">
      <table className="rows fix-table">
        <thead>
          <tr>
            <HeadUnseen>Order</HeadUnseen>
            <th>Fix</th>
            <th className="right">
              <Term means="Saving when nothing else is done: change of the average hero paint (LCP), with its range.">
                Alone
              </Term>
            </th>
            <th className="right">
              <Term means="Saving on top of the fixes above it, with its range: less where those already cover it.">
                Extra saving
              </Term>
            </th>
            <th className="right">Running total</th>
            <th>Owner</th>
            <th>Due</th>
            <th>State</th>
            <HeadUnseen>Take off</HeadUnseen>
          </tr>
        </thead>
        <tbody>
          {bench.chosen.map((id, i) => {
            const group = bench.groups.find((g) => g.id === id);
            return group ? (
              <tr
                key={id}
                {...rowProps(id)}
                data-row={i}
                tabIndex={0}
                aria-label={`${i + 1}. ${group.title}. Alt and arrow up or down move it.`}
                className={i === row ? 'at' : ''}
                onClick={() => setRow(i)}
                onFocus={() => setRow(i)}
              >
                <FixCells siteId={siteId} group={group} index={i} />
              </tr>
            ) : null;
          })}
        </tbody>
      </table>
    </div>
  );
}

function FixCells({ siteId, group, index }: { siteId: number; group: GroupInfo; index: number }) {
  const bench = useBench();
  const { bySite, set } = usePlanDraft();
  const own = bySite[siteId]?.[group.id] ?? NO_DETAILS;
  const answer = useBenchAnswer();
  const effect = answer?.groups.find((g) => g.id === group.id);
  const ranges = answer?.groupRanges?.find((g) => g.id === group.id);
  return (
    <>
      <td className="grip" aria-hidden title="Drag to another place, or Alt with the arrows">
        {index + 1} ⋮
      </td>
      <td>
        <b>{group.title}</b>
        <div className="soft small">
          {count(group.pages, 'page')} · about {group.effort} min
          {effect && overlapText(effect, bench) && <> · {overlapText(effect, bench)}</>}
          {' · '}
          <To className="link" to={`${bench.base}/proofs?bench=${groupKey(group.id)}`}>
            prove alone
          </To>
          <ProofWarning group={group.id} />
        </div>
      </td>
      <Effect value={effect?.aloneMs} range={ranges?.alone} />
      <Effect value={effect?.addedMs} range={ranges?.added} strong />
      <td className="right">{thenMs(answer, bench.chosen, index)}</td>
      <td>
        <input
          aria-label={`Owner of ${group.title}`}
          value={own.owner}
          maxLength={120}
          placeholder="–"
          onChange={(e) => set(siteId, group.id, { owner: e.target.value })}
        />
      </td>
      <td>
        <input
          type="date"
          aria-label={`Due date of ${group.title}`}
          value={own.due}
          onChange={(e) => set(siteId, group.id, { due: e.target.value })}
        />
      </td>
      <td>
        <select
          aria-label={`State of ${group.title}`}
          value={own.state}
          onChange={(e) => set(siteId, group.id, { state: e.target.value as FixState })}
        >
          {FIX_STATES.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
      </td>
      <td>
        <button
          className="link soft"
          onClick={() => bench.toggle(group.id)}
          aria-label={`Take ${group.title} off the bench`}
          title="Take off the bench"
        >
          ×
        </button>
      </td>
    </>
  );
}

function Effect({ value, range, strong }: { value?: number; range?: readonly [number, number]; strong?: boolean }) {
  const tone = value === undefined || Math.abs(value) < 40 ? 'soft' : value < 0 ? 'gain' : 'cost';
  return (
    <td className="right">
      <span className={strong ? `${tone} strong` : tone}>{value === undefined ? '…' : effectText(value)}</span>
      <div className="soft small">{range && value !== undefined ? effectRangeText(range, value < 0) : ' '}</div>
    </td>
  );
}

/** Hero paint after the fixes up to this one. */
function thenMs(answer: BenchAnswer | undefined, chosen: readonly string[], index: number): string {
  if (!answer) return '…';
  const upTo = new Set(chosen.slice(0, index + 1));
  return ms(answer.now.lcpMs + answer.groups.filter((g) => upTo.has(g.id)).reduce((sum, g) => sum + g.addedMs, 0));
}

/** How a fix overlaps with those above it, in words; empty when it does not. */
export function overlapText(
  effect: { readonly aloneMs: number; readonly addedMs: number; readonly coveredBy?: { readonly id: string } },
  { groups }: Pick<Bench, 'groups'>,
): string {
  const lost = effect.addedMs - effect.aloneMs;
  const cover = groups.find((g) => g.id === effect.coveredBy?.id)?.title;
  if (lost > OVERLAP_MS && effect.addedMs > -40)
    return cover ? `no further saving: already covered by “${cover}”` : 'no further saving on top of those above';
  if (lost > OVERLAP_MS) return `${ms(lost)} ${cover ? `already saved by “${cover}”` : 'already saved by those above'}`;
  if (lost < -OVERLAP_MS) return `${ms(-lost)} more in combination with those above`;
  return '';
}
