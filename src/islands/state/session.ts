import { useEffect } from 'react';
import { create } from 'zustand';
import type { Visitor } from '../../core/load/visitors';
import { served } from './served';

/** State of the frame that outlives screens. */
interface Session {
  /** Undefined until somebody opens or folds it: then the width of the window decides. */
  readonly benchOpen?: boolean;
  readonly helpOpen: boolean;
  readonly paletteOpen: boolean;
  /** The server did not answer a move to another screen. */
  readonly unreachable?: { retry(): void };
  /** Visitor that the editor starts from; undefined while it is closed. */
  readonly editedVisitor?: Visitor;
  setBenchOpen(open: boolean): void;
  setHelpOpen(open: boolean): void;
  setPaletteOpen(open: boolean): void;
  editVisitor(start: Visitor | undefined): void;
}

export const useSession = create<Session>((set) => ({
  helpOpen: false,
  paletteOpen: false,
  setBenchOpen: (benchOpen) => set({ benchOpen }),
  setHelpOpen: (helpOpen) => set({ helpOpen }),
  setPaletteOpen: (paletteOpen) => set({ paletteOpen }),
  editVisitor: (editedVisitor) => set({ editedVisitor }),
}));

/** Below this width the bench begins folded, in px. */
const ROOM_FOR_BENCH = 1000;

/** Whether the bench is open. */
export function useBenchOpen(): boolean {
  const { benchOpen } = useSession();
  useEffect(() => {
    // The server may have guessed another width.
    if (benchOpen === undefined) useSession.setState({ benchOpen: window.innerWidth >= ROOM_FOR_BENCH });
  }, [benchOpen]);
  return benchOpen ?? served().width >= ROOM_FOR_BENCH;
}
