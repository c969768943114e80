import { useEffect, useState } from 'react';
import type { Reader } from '../../core/handover/report/facts';
import { FORMATS_OF, type Format } from '../../core/handover/report/formats';
import { island } from '../frame/island';
import { useBench } from '../state/bench';
import { setQuery, useLocation } from '../state/location';
import { Loading } from '../ui/parts';
import { HandoverWays } from './HandoverWays';

interface ReaderChoice {
  readonly id: Reader;
  readonly name: string;
  readonly gets: string;
}

const READERS: readonly ReaderChoice[] = [
  {
    id: 'owner',
    name: 'Owner',
    gets: 'What a visitor waits for, the few fixes that matter, and whether it is safe. Without jargon.',
  },
  { id: 'fixer', name: 'Fixer', gets: 'A task for each fix: place, change, forecast, how to check it.' },
  { id: 'auditor', name: 'Auditor', gets: 'Every page and every finding with its place.' },
];

const NAMES: Readonly<Record<Format, string>> = {
  pdf: 'PDF',
  html: 'HTML',
  json: 'JSON',
  md: 'Markdown',
  xlsx: 'Excel',
  csv: 'CSV',
  zip: 'ZIP',
  sarif: 'SARIF',
};

/** What leaves the tool: pick the reader, see the report as it will be, take it as a file. */
export function HandoverScreen() {
  const { siteId, sweepId, visitor } = useBench();
  const { query } = useLocation();
  const reader = READERS.find((r) => r.id === query.get('reader')) ?? (READERS[0] as ReaderChoice);
  const path = (format: string) =>
    `/api/sites/${siteId}/report?reader=${reader.id}&format=${format}&sweep=${sweepId ?? 0}&visitor=${encodeURIComponent(visitor.id)}`;
  const shown = `${path('html')}&show=1`;
  const [looks, setLooks] = useState(0);
  return (
    <>
      <h1 className="serif">Hand over</h1>
      <fieldset className="readers" aria-label="Who reads it">
        {READERS.map((r) => (
          <label key={r.id}>
            <input
              type="radio"
              name="reader"
              checked={r.id === reader.id}
              onChange={() => setQuery({ reader: r.id === 'owner' ? null : r.id })}
            />{' '}
            <strong>{r.name}</strong>
            <br />
            <span className="soft">{r.gets}</span>
          </label>
        ))}
      </fieldset>
      <p className="report-files">
        <span>Save for {visitor.name}:</span>
        {FORMATS_OF[reader.id].map((format) => (
          <a key={format} className="button" href={path(format)} download>
            {reader.id === 'fixer' && format === 'zip' ? 'ZIP with the files' : NAMES[format]}
          </a>
        ))}
        <a href={shown} target="_blank" rel="noreferrer">
          Open it in a tab of its own
        </a>
      </p>
      <HandoverWays reader={reader.id} onLook={() => setLooks((n) => n + 1)} />
      <Preview key={`${shown} ${looks}`} address={shown} reader={reader.name} />
    </>
  );
}

function Preview({ address, reader }: { address: string; reader: string }) {
  const [there, setThere] = useState(false);
  // Asked for only here: what had come before this listens would never be heard of.
  const [src, setSrc] = useState<string>();
  useEffect(() => setSrc(address), [address]);
  return (
    <div className="report-preview">
      {!there && <Loading what="Writing the report" />}
      <iframe
        className="report-frame"
        title={`Report for the ${reader.toLowerCase()}`}
        sandbox=""
        src={src}
        onLoad={() => setThere(src !== undefined)}
      />
    </div>
  );
}

export default island(HandoverScreen, 'recordings');
