import { lazy, Suspense, useState, type ComponentProps, type ReactNode } from 'react';

// The list comes with the first menu that is opened: until then a page does without it.
const OpenMenu = lazy(() => import('./OpenMenu'));

/** One line of a menu. */
export interface MenuItem {
  readonly key: string | number;
  readonly content: ReactNode;
  readonly label?: string;
  readonly disabled?: boolean;
  onPick(): void;
}

/** What a menu shows: lines, words that cannot be chosen, and rules between them. */
export type MenuEntry =
  MenuItem | { readonly key: string; readonly words: string } | { readonly key: string; readonly rule: true };

/** A button that opens a menu. */
export interface DropMenuProps {
  readonly entries: readonly MenuEntry[];
  readonly position: 'bottom-start' | 'bottom-end';
  readonly width?: number;
  /** Stays open when something is picked. */
  readonly stays?: boolean;
  readonly listClass?: string;
  readonly button: ComponentProps<'button'>;
}

export function DropMenu(props: DropMenuProps) {
  const [wanted, setWanted] = useState(false);
  const plain = <button {...props.button} aria-haspopup="menu" aria-expanded={false} onClick={() => setWanted(true)} />;
  return wanted ? (
    <Suspense fallback={plain}>
      <OpenMenu {...props} />
    </Suspense>
  ) : (
    plain
  );
}
