import type { Reader } from '../../core/handover/report/facts';
import { Fold } from '../ui/Fields';
import { FilmForm } from './FilmForm';
import { LookForm } from './LookForm';
import { MailReport } from './MailReport';
import { ShareReport } from './ShareReport';

/** How a report leaves, and whose it is. */
export default function HandoverWays({ reader, onLook }: { reader: Reader; onLook: () => void }) {
  return (
    <>
      {reader === 'owner' && <Fold title="A strip of the page coming up">{(opened) => opened && <FilmForm />}</Fold>}
      <Fold title="Send by mail">{(opened) => opened && <MailReport reader={reader} />}</Fold>
      <Fold title="Share by link">{(opened) => opened && <ShareReport reader={reader} />}</Fold>
      <Fold title="Firm, logo, language and foreword">{(opened) => opened && <LookForm onSaved={onLook} />}</Fold>
    </>
  );
}
