import { To } from '../ui/To';

export function Brand() {
  return (
    <To className="brand" to="/">
      <svg width="18" height="18" viewBox="0 0 18 18" aria-hidden>
        <circle cx="8" cy="8" r="6.2" fill="none" stroke="currentColor" strokeWidth="1.8" />
        <path d="M4 8a4 4 0 0 1 4-4" fill="none" stroke="var(--hero)" strokeWidth="1.8" />
        <path d="M12.6 12.6 17 17" stroke="currentColor" strokeWidth="2" />
      </svg>
      Keen Lens
    </To>
  );
}
