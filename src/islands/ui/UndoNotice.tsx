import { useState } from 'react';
import { shownError, type ShownError } from '../state/api';
import { ErrorBox } from './parts';

/** Something that was done and can be taken back. */
export interface Undo {
  readonly text?: string;
  readonly error?: ShownError;
  offer(text: string, back: () => Promise<unknown>): void;
  run(): void;
  close(): void;
}

/** Keeps the last thing that can be taken back. */
export function useUndo(): Undo {
  const [last, setLast] = useState<{ text: string; back: () => Promise<unknown> }>();
  const [error, setError] = useState<ShownError>();
  return {
    text: last?.text,
    error,
    offer: (text, back) => (setError(undefined), setLast({ text, back })),
    run: () => {
      last?.back().catch((e: unknown) => setError(shownError(e)));
      setLast(undefined);
    },
    close: () => setLast(undefined),
  };
}

/** Says what was done, with a way back. */
export function UndoNotice({ undo }: { undo: Undo }) {
  return (
    <>
      {undo.error && <ErrorBox error={undo.error} />}
      {undo.text && (
        <p className="notice" role="status">
          {undo.text}{' '}
          <button type="button" className="link" onClick={undo.run}>
            Undo
          </button>
          <button type="button" className="link soft" onClick={undo.close} aria-label="Close this notice">
            Close
          </button>
        </p>
      )}
    </>
  );
}
