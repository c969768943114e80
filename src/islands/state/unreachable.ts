import { go } from './location';
import { useSession } from './session';

/**
 * Keeps the screen when the server does not answer a move to another one, and says so: the client router would leave
 * for the browser's own error page. What is on the screen, the bench above all, stays.
 */
export function watchMoves(): () => void {
  const onMove = (event: TransitionBeforePreparation) => {
    const load = event.loader;
    useSession.setState({ unreachable: undefined });
    event.loader = async () => {
      await load();
      if (!event.defaultPrevented || (await reachable())) return;
      const { pathname, search } = event.to;
      useSession.setState({ unreachable: { retry: () => go(pathname + search) } });
      // A move that never ends is one that the next move calls off.
      await new Promise(() => undefined);
    };
  };
  document.addEventListener('astro:before-preparation', onMove);
  return () => document.removeEventListener('astro:before-preparation', onMove);
}

type TransitionBeforePreparation = DocumentEventMap['astro:before-preparation'];

const reachable = () =>
  fetch('/api/health').then(
    () => true,
    () => false,
  );
