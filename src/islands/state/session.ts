import { create } from 'zustand';

/** State of the frame that outlives screens. */
interface Session {
  readonly benchOpen: boolean;
  readonly helpOpen: boolean;
  setBenchOpen(open: boolean): void;
  setHelpOpen(open: boolean): void;
}

export const useSession = create<Session>((set) => ({
  benchOpen: typeof window === 'undefined' || window.innerWidth >= 1000,
  helpOpen: false,
  setBenchOpen: (benchOpen) => set({ benchOpen }),
  setHelpOpen: (helpOpen) => set({ helpOpen }),
}));
