/** A change with its direction in words and colour. */
export function Change({ was, is, text }: { was: number; is: number; text: (n: number) => string }) {
  const by = is - was;
  if (Math.abs(by) < 0.01 * Math.max(1, was)) return <span className="soft">same</span>;
  return (
    <b className={by < 0 ? 'gain' : 'cost'}>
      {text(Math.abs(by))} {by < 0 ? 'less' : 'more'}
    </b>
  );
}
