import { CONCERNS, type Concern } from '../../core/checks/concern';

/** Name and question of a concern. */
export function ConcernHead({ concern }: { concern: Concern }) {
  const own = CONCERNS.find((c) => c.id === concern);
  return (
    <>
      <h1 className="serif">{own?.name}</h1>
      <p className="soft lead">{own?.question}</p>
    </>
  );
}
