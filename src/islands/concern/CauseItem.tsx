import { useState } from 'react';
import { fileName } from '../../core/capture/url';
import { FIRST_FIXES } from '../../core/plan/firstFixes';
import { savedSeconds, worthShort, worthText } from '../../core/plan/worth';
import type { CausePlace } from '../../engine/store/causes';
import type { MuteRow } from '../../engine/store/mutes';
import { MuteForm } from '../findings/MuteForm';
import { About, Words } from '../findings/Words';
import { useBench } from '../state/bench';
import { bytes, count } from '../ui/format';
import { HarmMark, Kbd, Term } from '../ui/parts';
import type { FixedCause } from './causes';

interface Props {
  readonly cause: FixedCause;
  readonly index: number;
  readonly at: boolean;
  /** Most seconds that a cause of the list saves, which bars are measured by. */
  readonly most: number;
  readonly open: boolean;
  readonly muting: boolean;
  /** What keeps it out of the lists, when muted ones are shown. */
  readonly mute?: MuteRow;
  readonly onUnmute: (mute: MuteRow) => void;
  readonly onPick: () => void;
  readonly onOpen: () => void;
  readonly onMute: () => void;
  readonly onMuted: (mute: MuteRow | undefined) => void;
  readonly openPlace: (place: CausePlace) => void;
}

/** One cause: what it is, to whom it matters, where it stands, which fix removes it, and what that is worth. */
export function CauseItem(props: Props) {
  const bench = useBench();
  const { cause, index, at, open } = props;
  const [showsAll, setShowsAll] = useState(false);
  const { row } = cause;
  const more = showsAll ? 0 : Math.max(0, row.groups.length - FIRST_FIXES);
  const groups = more > 0 ? cause.groups.slice(0, FIRST_FIXES) : cause.groups;
  const { first, worth } = row;
  const source = first.evidence.source;
  return (
    <li data-row={index} className={at ? 'at' : ''} onClick={props.onPick}>
      <div className="finding-head">
        <HarmMark harm={row.harm} costMs={worth.savedMs} />
        <b>
          {first.title}
          {row.targets > 1 && <span className="soft"> and {row.targets - 1} more like it</span>}
        </b>
        {row.muted && <span className="chip">muted</span>}
        <span className="soft right-end">
          {count(row.pages, 'page')}
          {row.findings > row.pages && `, ${count(row.findings, 'place')}`}
        </span>
        <Term means={worthText(worth, bench.data.value?.clicksOf)}>
          <span className="worth">
            {worth.harm === 'slow' && (
              <i style={{ width: Math.max(1, Math.round((46 * savedSeconds(worth)) / Math.max(0.001, props.most))) }} />
            )}
            {worthShort(worth)}
          </span>
        </Term>
      </div>
      <Words finding={first} />
      {source && (
        <p className="mono small">
          <span className="soft">{first.evidence.element ?? fileName(source.url)}</span> <code>{source.text}</code>
        </p>
      )}
      {first.evidence.files && first.evidence.files.length > 1 && <Files files={first.evidence.files} />}
      <p className="mono small">
        {row.places.map((p) => (
          <button key={p.id} className="link" onClick={() => props.openPlace(p)}>
            {placeName(p)}
          </button>
        ))}
        {row.pages > row.places.length && (
          <span className="soft"> and {count(row.pages - row.places.length, 'more page')} (in the export)</span>
        )}
      </p>
      {groups.map((g, i) => {
        const on = bench.chosen.includes(g.id);
        return (
          <div key={g.id} className="fix-line">
            <button className={on ? 'put on' : 'put'} aria-pressed={on} onClick={() => bench.toggle(g.id)}>
              {on ? 'on the bench' : 'Put on the bench'} {at && i === 0 && <Kbd>b</Kbd>}
            </button>
            <span>{g.title}</span>
            <span className="soft">{count(g.pages, 'page')}</span>
          </div>
        );
      })}
      {more > 0 && (
        <p className="small">
          <button className="link" onClick={() => setShowsAll(true)}>
            Show {count(more, 'more fix', 'more fixes')}
          </button>
        </p>
      )}
      <p className="small">
        <button className="link soft" aria-expanded={open} onClick={props.onOpen}>
          {open ? 'Hide' : 'Details'}
        </button>
        {props.mute && (
          <span className="soft">
            Muted: {props.mute.reason}{' '}
            <button data-needs="auditor" className="link" onClick={() => props.mute && props.onUnmute(props.mute)}>
              Unmute
            </button>
          </span>
        )}
        {!row.muted && (
          <button data-needs="auditor" className="link soft" onClick={props.onMute}>
            Mute …
          </button>
        )}
      </p>
      {open && <About finding={first} />}
      {props.muting && (
        <MuteForm
          siteId={bench.siteId}
          finding={first}
          scopes={[
            { scope: 'cause', name: row.findings > 1 ? `these ${row.findings} findings` : 'this finding' },
            { scope: 'check', name: `the whole check ${first.check}` },
          ]}
          onDone={props.onMuted}
          onCancel={() => props.onMuted(undefined)}
        />
      )}
    </li>
  );
}

/** Every file that a finding counts. */
function Files({ files }: { files: NonNullable<FixedCause['row']['first']['evidence']['files']> }) {
  return (
    <details className="small">
      <summary className="soft">{count(files.length, 'file')}</summary>
      <ul className="mono">
        {files.map((f) => (
          <li key={f.url}>
            {f.url}{' '}
            <span className="soft">
              {bytes(f.bytes)}
              {f.line === undefined ? '' : `, line ${f.line}`}
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}

/** Page and line; the stylesheet's name and line where the fault stands in one. */
function placeName(p: CausePlace): string {
  const path = new URL(p.page).pathname;
  if (!p.source) return path;
  return p.source.url === p.page ? `${path}:${p.source.line}` : `${path} in ${fileName(p.source.url)}:${p.source.line}`;
}
