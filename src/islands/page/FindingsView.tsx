import { useEffect, useMemo, useRef, useState } from 'react';
import { CONCERNS } from '../../core/checks/concern';
import type { MuteRow } from '../../engine/store/mutes';
import type { StoryAnswer } from '../../workers/benchMessages';
import { MuteForm, MutedNotice, unmute } from '../findings/MuteForm';
import { About, Words } from '../findings/Words';
import { useBench } from '../state/bench';
import type { CaptureView, ShownFinding } from '../state/types';
import { effectText } from '../ui/format';
import { HarmMark } from '../ui/parts';
import { SearchBox } from '../ui/SearchBox';
import { moveRow, useKeys } from '../ui/useKeys';

interface Props {
  readonly view: CaptureView;
  readonly alone?: StoryAnswer['alone'];
  readonly showSource: (line: number) => void;
  /** The finding at hand, to outline it and to show its load. */
  readonly onAt: (finding: ShownFinding | undefined) => void;
  /** Finding that the address names. */
  readonly asked?: string;
  readonly onChanged: () => void;
}

/** Findings of a page with their evidence and the fixes that remove them. */
export function FindingsView({ view, alone, showSource, onAt, asked, onChanged }: Props) {
  const bench = useBench();
  const search = useRef<HTMLInputElement>(null);
  const [words, setWords] = useState('');
  // By its id: the list is sorted anew when what the fixes save is known.
  const [picked, setPicked] = useState(asked);
  const [open, setOpen] = useState<string>();
  const [muting, setMuting] = useState<string>();
  const [muted, setMuted] = useState<MuteRow>();
  const [silent, setSilent] = useState(false);
  const [harm, setHarm] = useState('');
  const [concern, setConcern] = useState('');
  const quiet = view.findings.filter((f) => f.muted).length;
  const fixesOf = (f: ShownFinding) => view.fixes.filter((x) => x.findings.includes(f.id));
  const costOf = (f: ShownFinding) => Math.max(0, ...fixesOf(f).map((x) => -(alone?.[x.id]?.lcpMs ?? 0)));
  const rows = useMemo(() => {
    const rank = { broken: 0, exposed: 1, slow: 2, tidy: 3 } as const;
    const wanted = words.toLowerCase();
    return view.findings
      .filter((f) => silent === (f.muted !== undefined))
      .filter((f) => (harm === '' || f.harm === harm) && (concern === '' || f.concern === concern))
      .filter((f) => `${f.title} ${f.plain} ${f.target} ${f.check}`.toLowerCase().includes(wanted))
      .map((f) => ({ f, cost: costOf(f) }))
      .sort((a, b) => rank[a.f.harm] - rank[b.f.harm] || b.cost - a.cost)
      .map(({ f }) => f);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [view, alone, words, silent, harm, concern]);
  useEffect(() => {
    if (rows.some((f) => f.id === asked)) setPicked(asked);
    // Once, when the address names one.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [asked, view.row.id]);
  const row = Math.max(
    0,
    rows.findIndex((f) => f.id === picked),
  );
  const current = rows[row];
  // What the address names stays in view, wherever the list puts it.
  useEffect(() => {
    if (current && current.id === asked) moveRow(row, 0, rows.length);
  }, [current, asked, row, rows.length]);
  const move = (by: number) => setPicked(rows[moveRow(row, by, rows.length)]?.id);
  useEffect(() => onAt(current), [current, onAt]);
  useKeys({
    j: () => move(1),
    k: () => move(-1),
    '/': () => search.current?.focus(),
    e: () => current?.evidence.source && showSource(current.evidence.source.line),
    Enter: () => current && setOpen((o) => (o === current.id ? undefined : current.id)),
    b: () => {
      const best = current && bestFix(fixesOf(current), alone);
      if (best) bench.toggle(best.group);
    },
  });
  return (
    <>
      <div className="tools">
        <SearchBox what="findings" box={search} value={words} onChange={setWords} />
        <select className="filter" aria-label="Concern" value={concern} onChange={(e) => setConcern(e.target.value)}>
          <option value="">Concern: all</option>
          {CONCERNS.map((c) => (
            <option key={c.id} value={c.id}>
              {c.name} ({view.findings.filter((f) => f.concern === c.id).length})
            </option>
          ))}
        </select>
        <select className="filter" aria-label="Harm" value={harm} onChange={(e) => setHarm(e.target.value)}>
          <option value="">Harm: all</option>
          {(['broken', 'exposed', 'slow', 'tidy'] as const).map((h) => (
            <option key={h} value={h}>
              {h} ({view.findings.filter((f) => f.harm === h).length})
            </option>
          ))}
        </select>
        {(quiet > 0 || silent) && (
          <button className={silent ? 'chip on' : 'chip'} aria-pressed={silent} onClick={() => setSilent(!silent)}>
            muted <b>{quiet}</b>
          </button>
        )}
      </div>
      <MutedNotice
        mute={muted}
        onUndo={(m) => void unmute(view.row.siteId, m.id).then(() => (setMuted(undefined), onChanged()))}
      />
      {rows.length === 0 && (
        <p className="soft">
          {view.findings.length === 0 ? 'No check found a fault on this page.' : 'No finding fits these filters.'}
        </p>
      )}
      <ul className="findings">
        {rows.map((f, i) => (
          <li key={f.id} data-row={i} className={i === row ? 'at' : ''} onClick={() => setPicked(f.id)}>
            <div className="finding-head">
              <HarmMark harm={f.harm} costMs={costOf(f)} />
              <b>{f.title}</b>
              <span className="soft right-end">{CONCERNS.find((c) => c.id === f.concern)?.name}</span>
            </div>
            <Words finding={f} />
            {f.muted && (
              <p className="soft">
                Muted: {f.muted.reason}{' '}
                <button
                  data-needs="auditor"
                  className="link"
                  onClick={() => f.muted && void unmute(view.row.siteId, f.muted.id).then(onChanged)}
                >
                  Unmute
                </button>
              </p>
            )}
            <Place f={f} view={view} showSource={showSource} />
            {fixesOf(f).map((x) => {
              const on = bench.chosen.includes(x.group);
              const effect = alone?.[x.id];
              return (
                <div key={x.id} className="fix-line">
                  <button className={on ? 'put on' : 'put'} aria-pressed={on} onClick={() => bench.toggle(x.group)}>
                    {on ? 'on the bench' : 'Put on the bench'}
                  </button>
                  <span>{x.title}</span>
                  {effect && (
                    <span className={effect.lcpMs < -40 ? 'gain' : effect.lcpMs > 40 ? 'cost' : 'soft'}>
                      {effectText(effect.lcpMs, effect.range)} <span className="soft">hero paint</span>
                      {Math.abs(effect.fcpMs) >= 40 && (
                        <span className="soft">, {effectText(effect.fcpMs)} first paint</span>
                      )}
                    </span>
                  )}
                </div>
              );
            })}
            <p className="small">
              <button
                className="link soft"
                aria-expanded={open === f.id}
                onClick={() => setOpen((o) => (o === f.id ? undefined : f.id))}
              >
                {open === f.id ? 'Hide' : 'Details'}
              </button>
              {!f.muted && (
                <button data-needs="auditor" className="link soft" onClick={() => setMuting(f.id)}>
                  Mute …
                </button>
              )}
            </p>
            {open === f.id && <About finding={f} />}
            {muting === f.id && (
              <MuteForm
                siteId={view.row.siteId}
                finding={f}
                scopes={[
                  { scope: 'finding', name: 'this finding' },
                  { scope: 'cause', name: 'all of this cause, on every page' },
                  { scope: 'check', name: `the whole check ${f.check}` },
                ]}
                onDone={(m) => (setMuting(undefined), setMuted(m), onChanged())}
                onCancel={() => setMuting(undefined)}
              />
            )}
          </li>
        ))}
      </ul>
    </>
  );
}

function Place({ f, view, showSource }: { f: ShownFinding; view: CaptureView; showSource: (line: number) => void }) {
  const s = f.evidence.source;
  if (!s)
    return f.evidence.load ? (
      <p className="mono small soft">
        load {f.evidence.load.index + 1}: {f.evidence.load.url}
      </p>
    ) : null;
  const own = s.url === view.row.page;
  return (
    <p className="mono small">
      {own ? (
        <button className="link" onClick={() => showSource(s.line)}>
          line {s.line}
        </button>
      ) : (
        <span className="soft">
          {s.url} line {s.line}
        </span>
      )}{' '}
      <span className="soft">{f.evidence.element ?? ''}</span> <code>{s.text}</code>
    </p>
  );
}

function bestFix<T extends { id: string }>(
  fixes: readonly T[],
  alone: StoryAnswer['alone'] | undefined,
): T | undefined {
  return [...fixes].sort((a, b) => (alone?.[a.id]?.lcpMs ?? 0) - (alone?.[b.id]?.lcpMs ?? 0))[0];
}
