import type { ReactNode } from 'react';
import type { Harm } from '../../core/checks/concern';
import type { ShownError } from '../state/api';
import { ms } from './format';
import { Hint } from './Hint';

const HARM: Readonly<Record<Harm, { mark: string; word: string; means: string }>> = {
  broken: { mark: '■', word: 'Broken', means: 'A browser refuses it or warns about it.' },
  exposed: { mark: '◧', word: 'Exposed', means: 'It can be read or changed in transit.' },
  slow: { mark: '▬', word: 'Slow', means: 'It costs a visitor time.' },
  tidy: { mark: '·', word: 'Tidy', means: 'Nothing a visitor notices now.' },
};

/** The harm of a finding: a mark in ink and its word; Slow is a bar as long as its milliseconds. */
export function HarmMark({ harm, costMs, plain }: { harm: Harm; costMs?: number; plain?: boolean }) {
  const { mark, word, means } = HARM[harm];
  const sized = harm === 'slow' && costMs !== undefined && costMs >= 40;
  return (
    <Hint text={means} className="harm" focusable={!plain}>
      {sized ? (
        <span className="harm-bar" style={{ width: Math.min(64, Math.max(3, costMs / 40)) }} />
      ) : (
        <span aria-hidden>{mark}</span>
      )}{' '}
      {word}
      {sized ? ` ${ms(costMs)}` : ''}
    </Hint>
  );
}

/** A trade term with its meaning on hover or focus. */
export function Term({ children, means }: { children: ReactNode; means: string }) {
  return (
    <Hint text={means} className="term" focusable>
      {children}
    </Hint>
  );
}

export const MEANS = {
  lcp: 'Hero paint, Largest Contentful Paint (LCP): when the largest picture or text of the first screen is on the screen.',
  fcp: 'First paint, First Contentful Paint (FCP): when the first text or picture is on the screen.',
  load: 'The load event: everything the page requested at first has arrived.',
  bytes: 'What travels over the network, headers and compressed bodies.',
  ttfb: 'Server, Time To First Byte (TTFB): until the first byte of the page arrives.',
  field: 'Field data: what real visits came to. Three of four were as fast as this or faster (p75).',
  average: 'The average over all pages of this sweep that were recorded with this kind of device.',
} as const;

export function ErrorBox({ error, retry }: { error: ShownError; retry?: () => void }) {
  return (
    <div className="error" role="alert">
      <strong>{error.what}</strong>
      <div className="mono soft">{error.where}</div>
      <div>{error.next}</div>
      {retry && (
        <button className="link" onClick={retry}>
          Try again
        </button>
      )}
    </div>
  );
}

export function Loading({ what }: { what: string }) {
  return (
    <p className="soft" role="status">
      <span className="spinner" aria-hidden /> {what}
    </p>
  );
}

/** Head of a column whose meaning is plain to see: said to those who cannot. */
export function HeadUnseen({ children }: { children: ReactNode }) {
  return (
    <th>
      <span className="unseen">{children}</span>
    </th>
  );
}

export function Kbd({ children }: { children: ReactNode }) {
  return <kbd>{children}</kbd>;
}
