import { scopeText } from '../../core/plan/plan';
import { useBench, useBenchAnswer } from '../state/bench';
import { useLocation } from '../state/location';
import { count, ms, range } from '../ui/format';
import { Loading, MEANS, Term } from '../ui/parts';
import { FixTable } from './FixTable';
import { SavedPlans } from './SavedPlans';
import { ScopePick } from './ScopePick';
import { TargetFinder } from './TargetFinder';
import { To } from '../ui/To';
import { island } from '../frame/island';

/** The bench in full: order, effects, owners; the way to a target; plans to save, compare and hand over. */
export function PlanScreen({ siteId }: { siteId: number }) {
  const bench = useBench();
  const paying = bench.forecast?.staircase;
  return (
    <>
      <h1 className="serif">
        <Sentence />
      </h1>
      <div className="tools">
        <label>
          Calculated for <ScopePick />
        </label>
        {bench.chosen.length > 1 && (
          <button className="put" onClick={() => void bench.order(bench.chosen).then(bench.choose)}>
            Best order
          </button>
        )}
        {paying && (
          <button
            className="put"
            onClick={() => bench.add(paying.stairs.slice(0, paying.paying).map((s) => s.group.id))}
          >
            Add all worthwhile fixes ({paying.paying})
          </button>
        )}
        {bench.chosen.length > 0 && (
          <To className="put" to={`${bench.base}/proofs`}>
            Prove
          </To>
        )}
        {bench.canUndo && (
          <button className="link" onClick={bench.undo}>
            Undo
          </button>
        )}
        <Exports />
      </div>
      <TargetFinder />
      {bench.chosen.length > 0 ? (
        <FixTable siteId={siteId} />
      ) : (
        <p className="soft">
          Nothing is on the bench. Put fixes on it from the Brief, a concern or a page, or find fixes for a target
          above.
        </p>
      )}
      <SavedPlans siteId={siteId} />
    </>
  );
}

function Sentence() {
  const { visitor, chosen, groups, scoped } = useBench();
  const answer = useBenchAnswer();
  if (!answer) return <Loading what="Forecasting the bench" />;
  const effort = groups.filter((g) => chosen.includes(g.id)).reduce((sum, g) => sum + g.effort, 0);
  const where =
    scoped.length === 1 ? (
      <>of “{scoped[0]?.title}”</>
    ) : (
      <>
        of an <Term means={MEANS.average}>average page</Term>
      </>
    );
  if (chosen.length === 0)
    return (
      <>
        {visitor.who} waits <em>{ms(answer.now.lcpMs)}</em> for the main picture {where}.
      </>
    );
  return (
    <>
      With {count(chosen.length, 'fix', 'fixes')} {visitor.who.charAt(0).toLowerCase() + visitor.who.slice(1)} waits{' '}
      <b>{ms(answer.after.lcpMs)}</b>
      {answer.range && <> ({range(answer.range.lcpMs)})</>} instead of <em>{ms(answer.now.lcpMs)}</em> for the main
      picture {where}; about {effort} min of work.
    </>
  );
}

/** Tasks and tables of the bench as it stands, and its pages as files with the times of the forecast. */
function Exports() {
  const { sweepId, visitor, keys, scope, chosen, scoped } = useBench();
  const { query } = useLocation();
  if (chosen.length === 0 || sweepId === undefined) return null;
  const about = new URLSearchParams({ visitor: visitor.id, bench: keys });
  const tasks = new URLSearchParams(about);
  tasks.set('scope', scopeText(scope));
  const plan = query.get('plan');
  if (plan) tasks.set('plan', plan);
  const page = scoped[0];
  return (
    <span className="right">
      Tasks{' '}
      {(['md', 'csv', 'xlsx'] as const).map((format) => (
        <a key={format} className="export" href={`/api/sweeps/${sweepId}/tasks?${tasks.toString()}&format=${format}`}>
          {format === 'md' ? 'Markdown' : format.toUpperCase()}
        </a>
      ))}
      {scoped.length === 1 && page && (
        <a className="export" href={`/api/captures/${page.captureId}/retimed?${about.toString()}`}>
          HAR with forecast timings
        </a>
      )}
    </span>
  );
}

export default island(PlanScreen, 'recordings');
