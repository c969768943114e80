import { spreadBars } from './spreadLayout';

const HEIGHT = 54;

/** Pages by one fact: a click on a bar keeps only its pages, another click lets all back in. */
export function SpreadChart(props: {
  title: string;
  width: number;
  slices: readonly { readonly value: string; readonly label: string; readonly pages: number; readonly bad?: boolean }[];
  chosen: readonly string[];
  onToggle: (value: string) => void;
}) {
  const bars = spreadBars(props.slices, props.width, HEIGHT);
  return (
    <figure className="spread">
      <figcaption>{props.title}</figcaption>
      <div
        className="spread-bars"
        role="group"
        aria-label={props.title}
        style={{ width: props.width, height: HEIGHT + 34 }}
      >
        {bars.map((b, i) => {
          const on = props.chosen.includes(b.value);
          const pages = b.pages.toLocaleString('en-GB');
          return (
            <button
              key={b.value}
              className={`${on ? 'on' : props.chosen.length > 0 ? 'off' : ''} ${props.slices[i]?.bad ? 'bad' : ''}`}
              style={{ left: b.x, width: b.width, height: HEIGHT + 34 }}
              aria-pressed={on}
              aria-label={`${props.title} ${b.label}: ${pages} pages`}
              title={`${b.label}: ${pages} pages`}
              onClick={() => props.onToggle(b.value)}
            >
              <i style={{ top: b.y + 14, height: b.height }} />
              <small style={{ top: b.y - 2 }} data-count={b.pages > 0 ? short(b.pages) : ''} />
              <span>{b.label}</span>
            </button>
          );
        })}
      </div>
    </figure>
  );
}

/** "850", "7.8k": under a bar there is little room. */
const short = (n: number) => (n < 1000 ? String(n) : `${(n / 1000).toFixed(n < 9950 ? 1 : 0)}k`);
