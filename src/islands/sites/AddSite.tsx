import { useState } from 'react';
import type { SiteRow } from '../../engine/store/sites';
import { ask, shownError, type ShownError } from '../state/api';
import { go } from '../state/location';
import { ErrorBox } from '../ui/parts';

/** One address is enough to begin: the site is added and its sweep is ready to start. */
export function AddSite() {
  const [home, setHome] = useState('');
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<ShownError>();
  const add = async () => {
    setBusy(true);
    setError(undefined);
    try {
      const site = await ask<SiteRow>('/api/sites', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ home }),
      });
      go(`/sites/${site.id}/sweep`);
    } catch (e) {
      setError(shownError(e));
    }
    setBusy(false);
  };
  return (
    <>
      <form
        data-needs="auditor"
        className="tools add-site"
        onSubmit={(e) => {
          e.preventDefault();
          void add();
        }}
      >
        <input
          aria-label="Address of a site"
          placeholder="https://www.fernhollow.example/"
          value={home}
          onChange={(e) => setHome(e.target.value)}
          autoComplete="url"
          inputMode="url"
        />
        <button className="button" disabled={busy || home.trim() === ''}>
          Add this site
        </button>
      </form>
      {error && <ErrorBox error={error} />}
    </>
  );
}
