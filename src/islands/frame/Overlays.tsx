import { lazy, Suspense, useEffect, useRef } from 'react';
import { useMaybeBench } from '../state/bench';
import { useSession } from '../state/session';
import { watchMoves } from '../state/unreachable';
import { ErrorBox } from '../ui/parts';
import { useKeys } from '../ui/useKeys';
import { island } from './island';

// Each is fetched when it is first opened.
const Palette = lazy(() => import('./Palette'));
const ShortcutSheet = lazy(() => import('./ShortcutSheet'));
const VisitorEditor = lazy(() => import('../visitors/VisitorEditor'));

/** What lies over the screens when it is asked for: the palette, the list of keys, the editor of visitors. */
export function Overlays() {
  const { helpOpen, setHelpOpen, paletteOpen, setPaletteOpen, editedVisitor, unreachable } = useSession();
  const site = useMaybeBench() !== undefined;
  const seen = useRef({ palette: false, help: false, visitors: false });
  seen.current.palette ||= paletteOpen;
  seen.current.help ||= helpOpen;
  seen.current.visitors ||= editedVisitor !== undefined;
  useEffect(watchMoves, []);
  useKeys({ '?': () => setHelpOpen(true) });
  useEffect(() => {
    if (!site) return;
    const onKey = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() !== 'k' || !(event.ctrlKey || event.metaKey) || event.altKey) return;
      event.preventDefault();
      setPaletteOpen(!useSession.getState().paletteOpen);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [site, setPaletteOpen]);
  return (
    <>
      {unreachable && (
        <div className="unreachable">
          <ErrorBox
            error={{
              what: 'The server does not respond.',
              where: 'the screen that you wanted to open',
              next: 'Check that it is running (npm start), then try again.',
            }}
            retry={unreachable.retry}
          />
        </div>
      )}
      <Suspense>
        {seen.current.palette && site && <Palette />}
        {seen.current.help && <ShortcutSheet />}
        {seen.current.visitors && <VisitorEditor />}
      </Suspense>
    </>
  );
}

export default island(Overlays);
