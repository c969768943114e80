import { useCallback, useRef, useState } from 'react';
import { go } from '../state/location';
import type { ShownError } from '../state/api';
import type { ImportResult } from '../state/types';
import { bytes, count } from '../ui/format';
import { ErrorBox } from '../ui/parts';
import { pairFiles } from './pairFiles';

/** One file on its way in. */
export interface Import {
  readonly id: number;
  readonly name: string;
  readonly size: number;
  readonly state: 'waiting' | 'sending' | 'examining' | 'done' | 'failed' | 'cancelled';
  readonly sent: number;
  readonly result?: ImportResult;
  readonly error?: ShownError;
}

export interface Imports {
  readonly list: readonly Import[];
  add(files: readonly File[]): void;
  cancel(id: number): void;
  clear(): void;
}

/** Sends files one after the other, with progress and cancel. */
export function useImports(onDone: () => void, siteId?: number): Imports {
  const [list, setList] = useState<readonly Import[]>([]);
  const queue = useRef<{ id: number; file: File }[]>([]);
  const running = useRef<{ id: number; xhr: XMLHttpRequest } | undefined>(undefined);
  const ids = useRef(0);
  const site = useRef(siteId);
  site.current = siteId;
  const change = useCallback(
    (id: number, values: Partial<Import>) => setList((l) => l.map((i) => (i.id === id ? { ...i, ...values } : i))),
    [],
  );

  const next = useCallback(() => {
    if (running.current) return;
    const job = queue.current.shift();
    if (!job) return;
    const xhr = new XMLHttpRequest();
    running.current = { id: job.id, xhr };
    const finish = (values: Partial<Import>) => {
      running.current = undefined;
      change(job.id, values);
      if (values.state === 'done') onDone();
      next();
    };
    xhr.open('POST', `/api/captures${site.current === undefined ? '' : `?site=${site.current}`}`);
    xhr.setRequestHeader('x-file-name', encodeURIComponent(job.file.name));
    xhr.setRequestHeader('content-type', 'application/octet-stream');
    xhr.upload.onprogress = (e) => change(job.id, { sent: e.loaded });
    xhr.upload.onload = () => change(job.id, { state: 'examining', sent: job.file.size });
    xhr.onload = () => {
      const value = parse(xhr.responseText);
      if (xhr.status < 300) finish({ state: 'done', result: value as ImportResult });
      else
        finish({
          state: 'failed',
          error: (value as { error?: ShownError } | undefined)?.error ?? {
            what: `The server responded with ${xhr.status}.`,
            where: job.file.name,
            next: 'Try again.',
          },
        });
    };
    xhr.onerror = () =>
      finish({
        state: 'failed',
        error: {
          what: 'The connection to the server was lost.',
          where: job.file.name,
          next: 'Is the server still running? Drop the file again.',
        },
      });
    xhr.onabort = () => finish({ state: 'cancelled' });
    change(job.id, { state: 'sending' });
    xhr.send(job.file);
  }, [change, onDone]);

  const add = useCallback(
    async (given: readonly File[]) => {
      const files = await pairFiles(given);
      const jobs = files.map((file) => ({ id: ++ids.current, file }));
      setList((l) => [
        ...l,
        ...jobs.map(({ id, file }): Import => ({ id, name: file.name, size: file.size, state: 'waiting', sent: 0 })),
      ]);
      queue.current.push(...jobs);
      next();
    },
    [next],
  );
  const cancel = useCallback(
    (id: number) => {
      if (running.current?.id === id) running.current.xhr.abort();
      else {
        queue.current = queue.current.filter((j) => j.id !== id);
        change(id, { state: 'cancelled' });
      }
    },
    [change],
  );
  const clear = useCallback(
    () => setList((l) => l.filter((i) => ['waiting', 'sending', 'examining'].includes(i.state))),
    [],
  );
  return { list, add, cancel, clear };
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** What became of the files. */
export function ImportList({ imports }: { imports: Imports }) {
  if (imports.list.length === 0) return null;
  return (
    <section className="imports" aria-live="polite">
      {imports.list.map((i) => (
        <div key={i.id} className="import">
          <b>{i.name}</b> <span className="soft">{bytes(i.size)}</span>{' '}
          <Progress import={i} cancel={() => imports.cancel(i.id)} />
          {i.result && (
            <span>
              {i.result.alreadyThere ? 'Already imported: ' : ''}
              {count(i.result.captures.length, 'page')}{' '}
              {i.result.captures.slice(0, 4).map((c) => (
                <button
                  key={c.id}
                  className="link"
                  onClick={() =>
                    go(
                      `/sites/${c.siteId}/pages/${c.id}?sweep=${c.sweepId}${c.device === 'desktop' ? '&visitor=desktop' : ''}`,
                    )
                  }
                >
                  {c.title || c.page}
                </button>
              ))}
              {i.result.notes.map((n) => (
                <span key={n} className="soft note-line">
                  {n}
                </span>
              ))}
            </span>
          )}
          {i.error && <ErrorBox error={i.error} />}
        </div>
      ))}
      <button className="link soft" onClick={imports.clear}>
        Clear this list
      </button>
    </section>
  );
}

function Progress({ import: i, cancel }: { import: Import; cancel: () => void }) {
  if (i.state === 'done' || i.state === 'failed') return null;
  if (i.state === 'cancelled') return <span className="soft">cancelled</span>;
  const text =
    i.state === 'waiting'
      ? 'queued'
      : i.state === 'sending'
        ? `sending, ${Math.round((100 * i.sent) / Math.max(1, i.size))} %`
        : 'examining';
  return (
    <span role="status">
      <progress max={i.size} value={i.state === 'examining' ? undefined : i.sent} /> {text}{' '}
      {i.state !== 'examining' && (
        <button className="link" onClick={cancel}>
          Cancel
        </button>
      )}
    </span>
  );
}
