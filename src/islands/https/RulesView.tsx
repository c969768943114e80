import { useState } from 'react';
import { RULES, type RuleServer } from '../../core/handover/redirectRules';
import type { FateRow } from '../../core/site/fates';
import type { ListSummary } from '../../engine/store/lists';
import { ask, shownError, useResource, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { count } from '../ui/format';
import { ErrorBox, Loading } from '../ui/parts';

interface Made {
  readonly file: string;
  readonly text: string;
  readonly refused: readonly { readonly from: string; readonly to: string; readonly why: string }[];
}

const pathOf = (url: string) => {
  const { pathname, search } = new URL(url);
  return pathname + search;
};

/** Redirect rules for what was found: missing pages get the pages chosen here, everything else ends at one address. */
export default function RulesView() {
  const { siteId } = useBench();
  const lists = useResource<readonly ListSummary[]>(`/api/sites/${siteId}/lists`);
  const usable = lists.value?.filter((l) => l.groups.some((g) => g.fate === 'missing' || g.fate === 'path lost')) ?? [];
  const [listId, setListId] = useState<number>();
  const list = usable.find((l) => l.id === listId) ?? usable[0];
  const missing = useResource<{ rows: readonly FateRow[] }>(
    list && `/api/sites/${siteId}/lists/${list.id}?fate=missing&sort=clicks&limit=500`,
  );
  const [server, setServer] = useState<RuleServer>('nginx');
  const [chosen, setChosen] = useState<Readonly<Record<string, string>>>({});
  const [made, setMade] = useState<Made>();
  const [error, setError] = useState<ShownError>();
  const [busy, setBusy] = useState(false);
  // Listed with http and https it is one page.
  const pages = [...new Map((missing.value?.rows ?? []).map((r) => [pathOf(r.address), r])).entries()];
  const targetOf = (path: string, row: FateRow) => chosen[path] ?? (row.nearest ? pathOf(row.nearest.url) : '');
  const make = () => {
    setBusy(true);
    setError(undefined);
    ask<Made>(`/api/sites/${siteId}/rules`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ server, chosen: pages.map(([from, row]) => ({ from, to: targetOf(from, row) })) }),
    })
      .then(setMade)
      .catch((e: unknown) => {
        setMade(undefined);
        setError(shownError(e));
      })
      .finally(() => setBusy(false));
  };
  const save = () => {
    if (!made) return;
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([made.text], { type: 'text/plain' }));
    link.download = made.file;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  return (
    <section aria-label="Redirect rules">
      <p className="soft">
        Rules for what the last probe found. Choose a page for each missing one; without one it stays an honest 404,
        with “gone” it answers 410. Nothing is sent to the home page wholesale.
      </p>
      {usable.length > 1 && (
        <p className="tools">
          <label className="soft">
            Missing pages of{' '}
            <select value={list?.id} onChange={(e) => setListId(Number(e.target.value))}>
              {usable.map((l) => (
                <option key={l.id} value={l.id}>
                  {l.name}
                </option>
              ))}
            </select>
          </label>
        </p>
      )}
      {missing.loading && !missing.value && <Loading what="Reading missing pages" />}
      {pages.length > 0 && (
        <table className="grid">
          <thead>
            <tr>
              <th>Missing page</th>
              <th>Redirect to</th>
              <th>Why this one</th>
              <th className="right">Clicks</th>
            </tr>
          </thead>
          <tbody>
            {pages.map(([path, row]) => (
              <tr key={path}>
                <td className="mono break">{path}</td>
                <td>
                  <input
                    className="mono wide"
                    aria-label={`Redirect ${path} to`}
                    value={targetOf(path, row)}
                    placeholder="stays missing"
                    onChange={(e) => setChosen({ ...chosen, [path]: e.target.value })}
                  />
                </td>
                <td className="soft small">
                  {chosen[path] !== undefined ? 'chosen by you' : row.nearest ? row.nearest.why : 'no page is like it'}
                </td>
                <td className="right">
                  {row.clicks === undefined ? '' : Math.round(row.clicks).toLocaleString('en-GB')}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {lists.value && usable.length === 0 && (
        <p className="soft">No list with missing pages yet: the rules are for hosts and http only.</p>
      )}
      <div className="tools">
        <label className="soft">
          Server{' '}
          <select value={server} onChange={(e) => setServer(e.target.value as RuleServer)}>
            {Object.entries(RULES).map(([id, r]) => (
              <option key={id} value={id}>
                {r.name}
              </option>
            ))}
          </select>
        </label>
        <button className="put" onClick={make} disabled={busy}>
          Write the rules
        </button>
        {made && (
          <button className="put" onClick={save}>
            Download {made.file}
          </button>
        )}
      </div>
      {error && <ErrorBox error={error} />}
      {made && (
        <>
          {made.refused.length > 0 && (
            <p className="soft">{count(made.refused.length, 'page')} left out; the file says why for each.</p>
          )}
          <pre className="rules-text" tabIndex={0} aria-label="Rules">
            {made.text}
          </pre>
        </>
      )}
    </section>
  );
}
