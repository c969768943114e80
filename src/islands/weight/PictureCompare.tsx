import { useState } from 'react';
import { fileName } from '../../core/capture/url';
import type { PictureVersion } from '../../core/pictures/versionMarkup';
import type { VersionsOfPicture } from '../../engine/services/pictureVersions';
import { useResource } from '../state/api';
import { bytes } from '../ui/format';
import { Loading, Term } from '../ui/parts';

const MOST = 520;

/** A picture beside its re-encoded versions: one over the other, with a line to drag between them. */
export function PictureCompare({ sweepId, url }: { sweepId: number; url: string }) {
  const path = `/api/sweeps/${sweepId}/versions?url=${encodeURIComponent(url)}`;
  const found = useResource<VersionsOfPicture>(path);
  const [chosen, setChosen] = useState(0);
  const [at, setAt] = useState(50);
  // A file that is no picture has no versions: nothing to say of it here.
  if (found.error) return null;
  if (!found.value) return <Loading what="Re-encoding the picture" />;
  const { versions, width, height, drawn, markup } = found.value;
  const version = versions[Math.min(chosen, versions.length - 1)];
  if (!version)
    return <p className="soft">WebP and AVIF at the size at which it is drawn are no smaller than {fileName(url)}.</p>;
  const wide = Math.min(MOST, width);
  const tall = Math.round((wide * height) / width);
  const name = (v: PictureVersion) => `${v.format.toUpperCase()} ${v.width} × ${v.height}`;
  return (
    <section aria-label="Re-encoded picture" className="picture-compare">
      <h3>{fileName(url)}, re-encoded</h3>
      <p className="soft small">
        Displayed at {drawn.map((d) => `${Math.round(d.width)} × ${Math.round(d.height)} px on ${d.device}`).join(', ')}
        ; each version has the points that these screens show. Quality: the lowest of four steps at which the picture
        stays{' '}
        <Term means="Mean structural similarity of the lightness; 1 for the same, 0.95 where a trained eye begins to see a difference.">
          alike
        </Term>{' '}
        (0.95 or more).
      </p>
      <div className="tools" role="radiogroup" aria-label="Version">
        {versions.map((v, i) => (
          <button
            key={name(v)}
            role="radio"
            aria-checked={v === version}
            className={v === version ? 'chip on' : 'chip'}
            onClick={() => setChosen(i)}
          >
            {name(v)} <b>{bytes(v.bytes)}</b>
          </button>
        ))}
      </div>
      <div className="compare-frame" style={{ maxWidth: wide, aspectRatio: `${wide} / ${tall}` }}>
        <img
          src={`${path}&format=${version.format}&width=${version.width}`}
          alt={`${fileName(url)} as ${name(version)}`}
        />
        <img
          src={`/api/bodies/${found.value.bodyHash}`}
          alt={`${fileName(url)} as it is`}
          style={{ clipPath: `inset(0 ${100 - at}% 0 0)` }}
        />
        <span className="compare-line" style={{ left: `${at}%` }} aria-hidden />
      </div>
      <label className="small">
        Left: as it is ({width} × {height}, {bytes(found.value.bytes)}). Right: {name(version)}, {bytes(version.bytes)}
        {version.similarity !== undefined && `, similarity ${version.similarity.toFixed(3)}`}, quality {version.quality}
        .
        <input
          type="range"
          min={0}
          max={100}
          value={at}
          style={{ maxWidth: wide }}
          onChange={(e) => setAt(Number(e.target.value))}
          aria-label="Where the two pictures meet"
        />
      </label>
      <p className="tools">
        <a href={`${path}&format=zip`} className="button">
          Download all versions (ZIP)
        </a>
        <span className="soft">
          {bytes(found.value.bytes - Math.min(...versions.map((v) => v.bytes)))} less at most
        </span>
      </p>
      <details>
        <summary>Markup to paste</summary>
        <pre className="mono small" tabIndex={0}>
          {markup}
        </pre>
      </details>
    </section>
  );
}
