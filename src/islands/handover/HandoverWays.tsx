import { lazy, Suspense, type ReactNode } from 'react';
import type { Reader } from '../../core/handover/report/facts';
import { Fold } from '../ui/Fields';
import { Loading } from '../ui/parts';

// Forms come when they are opened.
const FilmForm = lazy(() => import('./FilmForm'));
const LookForm = lazy(() => import('./LookForm'));
const MailReport = lazy(() => import('./MailReport'));
const ShareReport = lazy(() => import('./ShareReport'));

/** How a report leaves, and whose it is. */
export function HandoverWays({ reader, onLook }: { reader: Reader; onLook: () => void }) {
  return (
    <div data-needs="auditor">
      {reader === 'owner' && (
        <Way title="A strip of the page coming up">
          <FilmForm />
        </Way>
      )}
      <Way title="Send by mail">
        <MailReport reader={reader} />
      </Way>
      <Way title="Share by link">
        <ShareReport reader={reader} />
      </Way>
      <Way title="Firm, logo, language and foreword">
        <LookForm onSaved={onLook} />
      </Way>
    </div>
  );
}

function Way({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Fold title={title}>
      {(opened) => opened && <Suspense fallback={<Loading what="Reading the form" />}>{children}</Suspense>}
    </Fold>
  );
}
