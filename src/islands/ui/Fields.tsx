import { useId, useRef, useState, type ReactNode } from 'react';

/** A labelled field with a word of explanation below. */
export function Field(props: { label: string; help?: ReactNode; children: (id: string) => ReactNode }) {
  const id = useId();
  return (
    <div className="field">
      <label htmlFor={id}>{props.label}</label>
      <div>
        {props.children(id)}
        {props.help && <div className="soft small">{props.help}</div>}
      </div>
    </div>
  );
}

/** A box to tick, with its name beside it. */
export function Tick(props: { label: string; value: boolean; onChange: (on: boolean) => void; help?: string }) {
  return (
    <label className="tick-line" title={props.help}>
      <input type="checkbox" checked={props.value} onChange={(e) => props.onChange(e.target.checked)} /> {props.label}
    </label>
  );
}

/** A number within bounds; what cannot be read as one leaves the value as it was. */
export function NumberField(props: {
  id?: string;
  label?: string;
  value: number;
  min: number;
  max: number;
  step?: number;
  onChange: (n: number) => void;
}) {
  return (
    <input
      id={props.id}
      aria-label={props.label}
      type="number"
      value={props.value}
      min={props.min}
      max={props.max}
      step={props.step ?? 1}
      onChange={(e) => {
        const n = e.target.valueAsNumber;
        if (Number.isFinite(n)) props.onChange(Math.min(props.max, Math.max(props.min, n)));
      }}
    />
  );
}

/** Text of one entry a line. */
export function LinesField(props: {
  id?: string;
  value: readonly string[];
  onChange: (lines: string[]) => void;
  placeholder?: string;
  rows?: number;
}) {
  return (
    <textarea
      id={props.id}
      className="mono"
      rows={props.rows ?? 3}
      placeholder={props.placeholder}
      value={props.value.join('\n')}
      onChange={(e) => props.onChange(e.target.value === '' ? [] : e.target.value.split('\n'))}
      spellCheck={false}
    />
  );
}

/** A part of a screen that opens on demand. */
export function Fold(props: {
  title: string;
  open?: boolean;
  /** What is in it, or what makes it of whether it has ever been opened. */
  children: ReactNode | ((opened: boolean) => ReactNode);
}) {
  const { title, open = false, children } = props;
  // What a person opened stays open, whatever becomes of the reason to open it at first.
  const [shown, setShown] = useState(open);
  const opened = useRef(open);
  opened.current ||= shown;
  return (
    <details className="fold" open={shown} onToggle={(e) => setShown(e.currentTarget.open)}>
      <summary>{title}</summary>
      {typeof children === 'function' ? children(opened.current) : children}
    </details>
  );
}

/** Lines without empty ones, as they are sent. */
export const filled = (lines: readonly string[]) => lines.map((l) => l.trim()).filter(Boolean);
