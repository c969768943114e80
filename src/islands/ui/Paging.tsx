import { SetTo } from './SetTo';

/** Which part of a long list is shown, with links to the parts beside it; nothing for a list that fits. */
export function Paging({ from, page, total }: { from: number; page: number; total: number }) {
  if (total <= page) return null;
  return (
    <p className="soft">
      {from + 1} to {Math.min(from + page, total)} of {total.toLocaleString('en-GB')}{' '}
      {from > 0 && (
        <SetTo role="button" className="link" changes={{ from: from > page ? String(from - page) : null }}>
          Previous
        </SetTo>
      )}{' '}
      {from + page < total && (
        <SetTo role="button" className="link" changes={{ from: String(from + page) }}>
          Next
        </SetTo>
      )}
    </p>
  );
}
