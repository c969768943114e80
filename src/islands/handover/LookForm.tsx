import { useState } from 'react';
import type { ReportLook } from '../../core/handover/report/extras';
import type { Language } from '../../engine/services/languages';
import { shownError, useResource, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { send } from '../state/send';
import { ErrorBox, Loading } from '../ui/parts';

/** Whose report it is: name, logo, colour and foreword of the firm that hands it over. */
export default function LookForm({ onSaved }: { onSaved: () => void }) {
  const { siteId } = useBench();
  const path = `/api/sites/${siteId}/look`;
  const look = useResource<ReportLook>(path);
  const languages = useResource<readonly Language[]>('/api/languages');
  const [logo, setLogo] = useState<string>();
  const [error, setError] = useState<ShownError>();
  const [saved, setSaved] = useState(false);
  if (look.error) return <ErrorBox error={look.error} retry={look.reload} />;
  if (!look.value || !languages.value) return <Loading what="Reading" />;
  const { firm, colour, foreword, logo: kept } = look.value;
  const shown = logo ?? kept;
  const save = (form: FormData) => {
    setError(undefined);
    send<ReportLook>(path, 'PUT', {
      language: form.get('language') ?? 'en',
      firm: form.get('firm'),
      colour: form.get('own') === 'on' ? form.get('colour') : '',
      foreword: form.get('foreword'),
      logo: shown,
    })
      .then(() => {
        setLogo(undefined);
        setSaved(true);
        look.reload();
        onSaved();
      })
      .catch((e: unknown) => setError(shownError(e)));
  };
  const read = (file: File | undefined) => {
    if (!file) return;
    const reader = new FileReader();
    reader.onload = () => setLogo(String(reader.result).replace(/^[^,]*,/, ''));
    reader.readAsDataURL(file);
  };
  return (
    <form
      className="form handover-form"
      aria-label="Whose report this is"
      onChange={() => setSaved(false)}
      onSubmit={(e) => {
        e.preventDefault();
        save(new FormData(e.currentTarget));
      }}
    >
      <div className="handover-fields">
        <label className="wide">
          Firm
          <input name="firm" maxLength={120} defaultValue={firm} placeholder="Ivy Marsh, page audits" />
        </label>
        <label>
          Language
          <select name="language" defaultValue={look.value.language ?? 'en'}>
            {languages.value.map((l) => (
              <option key={l.language} value={l.language}>
                {l.name}
              </option>
            ))}
          </select>
        </label>
        <label>
          Colour
          <input name="colour" type="color" defaultValue={colour || '#0b6a66'} />
        </label>
        <label className="tick-line">
          <input name="own" type="checkbox" defaultChecked={colour !== ''} /> use this colour
        </label>
        <label>
          Logo
          <input type="file" accept="image/*" onChange={(e) => read(e.target.files?.[0])} />
        </label>
        {shown && (
          <span>
            {logo === undefined && <img className="look-logo" src={`data:image/png;base64,${kept}`} alt="Logo" />}
            {logo !== undefined && <span className="soft">a new logo, once saved</span>}{' '}
            <button type="button" className="link" onClick={() => setLogo('')}>
              Remove
            </button>
          </span>
        )}
      </div>
      <label>
        Foreword; a blank line begins a new paragraph
        <textarea name="foreword" rows={4} maxLength={4000} defaultValue={foreword} />
      </label>
      {error && <ErrorBox error={error} />}
      <p className="tools">
        <button className="button solid">Save</button>
        {saved && <span role="status">Saved: every report of this site looks like this now.</span>}
      </p>
    </form>
  );
}
