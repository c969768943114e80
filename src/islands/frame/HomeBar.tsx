import type { ReactNode } from 'react';
import { useLocation } from '../state/location';
import { useSession } from '../state/session';
import { Kbd } from '../ui/parts';
import { To } from '../ui/To';
import { AccountMenu } from './AccountMenu';
import { Brand } from './Brand';
import { JobsMenu } from './JobsMenu';
import { ThemeButton } from './TopBar';

const SCREENS = [
  { to: '/', name: 'Sites' },
  { to: '/recorders', name: 'Recorders' },
  { to: '/people', name: 'People' },
];

/** The bar of screens that are of no single site. */
export function HomeBar({ children }: { children?: ReactNode }) {
  const { path } = useLocation();
  const { setHelpOpen } = useSession();
  return (
    <header className="top">
      <Brand />
      <nav className="home-screens" aria-label="Screens">
        {SCREENS.map((s) => (
          <To key={s.to} className="pick" to={s.to} aria-current={path === s.to ? 'page' : undefined}>
            {s.name}
          </To>
        ))}
      </nav>
      {children}
      <JobsMenu />
      <button className="pick" onClick={() => setHelpOpen(true)} title="Keyboard shortcuts">
        Shortcuts <Kbd>?</Kbd>
      </button>
      <ThemeButton />
      <AccountMenu />
    </header>
  );
}
