import { lazy, Suspense, useEffect, useId, useRef, useState, type ReactNode } from 'react';

// The bubble comes with the first hint that is asked for: until then a page does without it.
const HintBubble = lazy(() => import('./HintBubble'));

/** How long a pointer has to rest on something, in ms. */
const REST_MS = 250;

/** Something with an explanation, shown on hover, focus or touch. */
export function Hint(props: {
  readonly text: string;
  readonly className: string;
  readonly focusable?: boolean;
  readonly children: ReactNode;
}) {
  const [shown, setShown] = useState(false);
  const [used, setUsed] = useState(false);
  const place = useRef<HTMLSpanElement>(null);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const id = useId();
  useEffect(() => () => clearTimeout(timer.current), []);
  const show = () => (setUsed(true), setShown(true));
  const hide = () => (clearTimeout(timer.current), setShown(false));
  return (
    <>
      <span
        ref={place}
        className={props.className}
        tabIndex={props.focusable ? 0 : undefined}
        aria-describedby={shown ? id : undefined}
        onPointerEnter={() => (timer.current = setTimeout(show, REST_MS))}
        onPointerLeave={hide}
        onFocus={show}
        onBlur={hide}
        onTouchStart={show}
        onKeyDown={(e) => e.key === 'Escape' && hide()}
      >
        {props.children}
      </span>
      {used && (
        <Suspense>
          <HintBubble id={id} text={props.text} shown={shown} target={place} />
        </Suspense>
      )}
    </>
  );
}
