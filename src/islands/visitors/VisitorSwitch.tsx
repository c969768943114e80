import { VISITORS, type Visitor } from '../../core/load/visitors';
import { useSession } from '../state/session';
import { useVisitors } from '../state/visitors';
import { SetTo } from '../ui/SetTo';
import { DropMenu } from '../ui/DropMenu';

/** For whom every figure is given: a built-in visitor, or one of the users' own. */
export function VisitorSwitch({ value, onChange }: { value: Visitor; onChange: (id: string) => void }) {
  const { editVisitor } = useSession();
  const own = useVisitors().slice(VISITORS.length);
  const builtIn = VISITORS.some((v) => v.id === value.id);
  return (
    <div className="visitors">
      <div role="radiogroup" aria-label="Visitor" className="visitor-row">
        {VISITORS.map((v) => (
          <SetTo
            key={v.id}
            role="radio"
            aria-checked={v.id === value.id}
            className={v.id === value.id ? 'on' : ''}
            title={visitorFacts(v)}
            changes={{ visitor: v.id }}
          >
            {v.name}
          </SetTo>
        ))}
      </div>
      <DropMenu
        position="bottom-end"
        button={{
          className: builtIn ? '' : 'on',
          title: builtIn ? 'Other visitors' : visitorFacts(value),
          'aria-label': builtIn ? 'Other visitors' : `Visitor: ${value.name}. Other visitors`,
          children: builtIn ? '▾' : `${value.name} ▾`,
        }}
        entries={[
          ...own.map((v) => ({
            key: v.name,
            onPick: () => onChange(v.id),
            content: (
              <>
                <span className={v.id === value.id ? 'strong' : ''}>{v.name}</span>
                <div className="soft small">{visitorFacts(v)}</div>
              </>
            ),
          })),
          ...(own.length > 0 ? [{ key: 'rule', rule: true as const }] : []),
          { key: 'new', content: 'New visitor …', onPick: () => editVisitor(value) },
        ]}
      />
    </div>
  );
}

/** Everything that makes a visitor, in words. */
export function visitorFacts(v: Visitor): string {
  return `${v.screenWidth} x ${v.screenHeight} at ${v.density}x, round trip ${v.rttMs} ms, ${v.downKbps / 1000} Mbit/s down, CPU slowdown ${v.cpuFactor}x`;
}
