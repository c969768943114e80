import { useEffect, useState } from 'react';
import type { ProofPictures } from '../../engine/store/proofs';
import { ms } from '../ui/format';

const SPEEDS = [
  { name: 'as fast as it was', factor: 1 },
  { name: 'half as fast', factor: 0.5 },
  { name: 'a quarter as fast', factor: 0.25 },
] as const;
/** Frames of the strip. */
const STEPS = 8;

type Frames = ProofPictures['film']['before'];

/** The frame that stood on the screen at a moment; undefined while there was none. */
export const frameAt = (frames: Frames, atMs: number): string | undefined =>
  frames.filter((f) => f.atMs <= atMs).at(-1)?.name;

/** Both loads side by side, played in step; below them a strip of moments. */
export function Film({ at, film }: { at: string; film: ProofPictures['film'] }) {
  const last = Math.max(...[...film.before, ...film.after].map((f) => f.atMs), 0);
  const end = Math.ceil((last + 200) / 100) * 100;
  const [now, setNow] = useState(end);
  const [playing, setPlaying] = useState(false);
  const [speed, setSpeed] = useState(1);
  useEffect(() => {
    if (!playing) return undefined;
    let before = performance.now();
    let frame = requestAnimationFrame(function step(time: number) {
      const passed = (time - before) * speed;
      before = time;
      setNow((n) => Math.min(end, n + passed));
      frame = requestAnimationFrame(step);
    });
    return () => cancelAnimationFrame(frame);
  }, [playing, speed, end]);
  useEffect(() => {
    if (now >= end) setPlaying(false);
  }, [now, end]);
  if (film.before.length === 0 || film.after.length === 0) return null;
  const moments = Array.from({ length: STEPS }, (_, i) => Math.round((end * (i + 1)) / STEPS));
  const play = () => {
    if (!playing && now >= end) setNow(0);
    setPlaying(!playing);
  };
  return (
    <section aria-label="How both come up">
      <h2 className="serif">How both come up</h2>
      <div className="film">
        <Side name="As it is" frames={film.before} at={at} now={now} />
        <Side name="With the fixes" frames={film.after} at={at} now={now} />
      </div>
      <p className="tools">
        <button type="button" className="put" onClick={play}>
          {playing ? 'Pause' : 'Play'}
        </button>
        <input
          type="range"
          min={0}
          max={end}
          step={20}
          value={now}
          aria-label="Moment, in ms since the navigation"
          aria-valuetext={ms(now)}
          onChange={(e) => {
            setPlaying(false);
            setNow(Number(e.target.value));
          }}
        />
        <span className="film-time">{ms(now)}</span>
        <select aria-label="Speed" value={speed} onChange={(e) => setSpeed(Number(e.target.value))}>
          {SPEEDS.map((s) => (
            <option key={s.factor} value={s.factor}>
              {s.name}
            </option>
          ))}
        </select>
      </p>
      <div className="scroll">
        <table className="film-strip">
          <tbody>
            {(['before', 'after'] as const).map((side) => (
              <tr key={side}>
                <th scope="row">{side === 'before' ? 'As it is' : 'With the fixes'}</th>
                {moments.map((m) => {
                  const name = frameAt(film[side], m);
                  return (
                    <td key={m}>
                      <button type="button" onClick={() => setNow(m)} aria-label={`Show ${ms(m)}`}>
                        {name ? <img src={at + name} alt="" loading="lazy" /> : <span className="film-empty" />}
                      </button>
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
          <tfoot>
            <tr>
              <td />
              {moments.map((m) => (
                <td key={m} className="soft small">
                  {ms(m)}
                </td>
              ))}
            </tr>
          </tfoot>
        </table>
      </div>
      <p className="soft small">
        Filming slows a load down a little: the figures above come from loads that were not filmed.
      </p>
    </section>
  );
}

/** One load; every frame is there already, so that playing needs no network. */
function Side({ name, frames, at, now }: { name: string; frames: Frames; at: string; now: number }) {
  const shown = frameAt(frames, now);
  return (
    <figure>
      <div className="film-screen">
        {frames.map((f) => (
          <img key={f.name} src={at + f.name} alt="" style={{ visibility: f.name === shown ? 'visible' : 'hidden' }} />
        ))}
      </div>
      <figcaption>{name}</figcaption>
    </figure>
  );
}
