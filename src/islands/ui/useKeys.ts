import { useEffect } from 'react';

/** Keyboard shortcuts of a screen; ignored while typing, with modifiers, in dialogs, and for what a button that has the focus does. */
export function useKeys(keys: Readonly<Record<string, () => void>>): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement | null;
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (target?.closest('input, textarea, select, [contenteditable], [role="dialog"]') && event.key !== 'Escape')
        return;
      // What has the focus is pressed by them itself.
      if ((event.key === 'Enter' || event.key === ' ') && target?.closest('button, a, summary, [role="button"]'))
        return;
      const run = keys[event.key];
      if (!run) return;
      event.preventDefault();
      run();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
}

/** Moves a marked row by j and k and keeps it in view; rows carry `data-row`. */
export function moveRow(now: number, by: number, total: number): number {
  const next = Math.max(0, Math.min(total - 1, now + by));
  document.querySelector(`[data-row="${next}"]`)?.scrollIntoView({ block: 'nearest' });
  return next;
}
