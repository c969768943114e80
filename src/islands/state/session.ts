import { create } from 'zustand';
import type { Visitor } from '../../core/load/visitors';

/** State of the frame that outlives screens. */
interface Session {
  readonly benchOpen: boolean;
  readonly helpOpen: boolean;
  /** Visitor that the editor starts from; undefined while it is closed. */
  readonly editedVisitor?: Visitor;
  setBenchOpen(open: boolean): void;
  setHelpOpen(open: boolean): void;
  editVisitor(start: Visitor | undefined): void;
}

export const useSession = create<Session>((set) => ({
  benchOpen: typeof window === 'undefined' || window.innerWidth >= 1000,
  helpOpen: false,
  setBenchOpen: (benchOpen) => set({ benchOpen }),
  setHelpOpen: (helpOpen) => set({ helpOpen }),
  editVisitor: (editedVisitor) => set({ editedVisitor }),
}));
