import { useState } from 'react';
import { useResource } from '../state/api';
import { ErrorBox, Loading } from '../ui/parts';

/** A script for the console of any browser: what a page tells of its own load, where no recording can be made. */
export function ConsoleSnippet() {
  const [open, setOpen] = useState(false);
  return (
    <details data-needs="auditor" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>From the console of any browser</summary>
      <ol className="steps">
        <li>Open the page with its cache off, and wait until it has loaded.</li>
        <li>Paste this into the console of the browser, and press Enter. It asks no server for anything.</li>
        <li>Drop the file that it saves here, together with a HAR of the same load if you have one.</li>
      </ol>
      {open && <Script />}
    </details>
  );
}

function Script() {
  const script = useResource<string>('/api/snippet');
  const [copied, setCopied] = useState('');
  if (script.error) return <ErrorBox error={script.error} retry={script.reload} />;
  if (!script.value) return <Loading what="Reading the script" />;
  const copy = () =>
    navigator.clipboard.writeText(script.value ?? '').then(
      () => setCopied('Copied.'),
      () => setCopied('The browser does not allow it: select the text and copy it.'),
    );
  return (
    <>
      <textarea
        className="mono small snippet"
        aria-label="Script for the console"
        readOnly
        value={script.value}
        rows={5}
      />
      <div>
        <button className="button" onClick={() => void copy()}>
          Copy the script
        </button>{' '}
        <span role="status" className="soft">
          {copied}
        </span>
      </div>
    </>
  );
}
