import type { Finding } from '../../core/checks/finding';
import { useChecks } from '../state/checks';

/** What a finding means to an owner, and what a developer does about it, side by side. */
export function Words({ finding: f }: { finding: Finding }) {
  const check = useChecks().find((c) => c.id === f.check);
  return (
    <div className="words">
      <p className="serif-text">{f.plain}</p>
      <p className="technical">
        {check?.change} <span className="soft small">{check?.standard}</span>
      </p>
    </div>
  );
}

/** What the check behind a finding looks at and cannot see, its figures, and how to tell that it is fixed. */
export function About({ finding: f }: { finding: Finding }) {
  const check = useChecks().find((c) => c.id === f.check);
  const figures = Object.entries(f.evidence.numbers);
  return (
    <div className="facts wide">
      <dl>
        <dt>Fixed when</dt>
        <dd>{check?.fixedWhen}</dd>
        <dt>Looks at</dt>
        <dd>{check?.examines}</dd>
        <dt>Cannot see</dt>
        <dd>{check?.cannotSee}</dd>
        {figures.length > 0 && (
          <>
            <dt>Figures</dt>
            <dd className="mono small">{figures.map(([name, value]) => `${name} ${value}`).join(' · ')}</dd>
          </>
        )}
        <dt>Check</dt>
        <dd className="mono small">{f.check}</dd>
      </dl>
    </div>
  );
}
