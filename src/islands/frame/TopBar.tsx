import { useComputedColorScheme, useMantineColorScheme } from '@mantine/core';
import { timeOfSweep } from '../../core/site/currentSweep';
import { useBench } from '../state/bench';
import { setQuery, useLocation } from '../state/location';
import { useSession } from '../state/session';
import { nextVisitor, useVisitors } from '../state/visitors';
import { day } from '../ui/format';
import { DropMenu } from '../ui/DropMenu';
import { Kbd } from '../ui/parts';
import { useKeys } from '../ui/useKeys';
import { VisitorSwitch } from '../visitors/VisitorSwitch';
import { AccountMenu } from './AccountMenu';
import { Brand } from './Brand';
import { JobsMenu } from './JobsMenu';
import { To } from '../ui/To';
import { island } from './island';

/** Site, sweep and what it is compared with, visitor switch, palette, jobs, help and theme. */
export function TopBar() {
  const { site, visitor, setVisitor } = useBench();
  const { setHelpOpen, setPaletteOpen } = useSession();
  const visitors = useVisitors();
  useKeys({ v: () => setVisitor(nextVisitor(visitors, visitor.id)) });
  return (
    <header className="top">
      <Brand />
      <To className="pick" to="/" title="All sites">
        <b>{site.value?.name ?? '…'}</b>
      </To>
      <SweepPick />
      <VisitorSwitch value={visitor} onChange={setVisitor} />
      <button className="pick" onClick={() => setPaletteOpen(true)} title="Find a page, a fix, a screen or an action">
        Find <Kbd>Ctrl K</Kbd>
      </button>
      <JobsMenu />
      <button className="pick keys" onClick={() => setHelpOpen(true)} title="Keyboard shortcuts">
        Shortcuts <Kbd>?</Kbd>
      </button>
      <ThemeButton />
      <AccountMenu />
    </header>
  );
}

/** The sweep that is looked at, and the one it is compared with. */
function SweepPick() {
  const { site, sweepId } = useBench();
  const { query } = useLocation();
  const sweeps = site.value?.sweeps ?? [];
  const sweep = sweeps.find((s) => s.id === sweepId);
  if (!sweep) return null;
  const name = (s: (typeof sweeps)[number]) => {
    const time = timeOfSweep(s, sweeps);
    return time === undefined ? day(s.day) : `${day(s.day)}, ${time}`;
  };
  const others = sweeps.filter((s) => s.id !== sweep.id && s.captures > 0);
  const older = sweeps.slice(sweeps.indexOf(sweep) + 1).find((s) => s.captures > 0);
  const against = others.find((s) => s.id === Number(query.get('with'))) ?? older;
  return (
    <>
      {sweeps.length > 1 ? (
        <DropMenu
          position="bottom-start"
          button={{
            className: 'pick',
            children: (
              <>
                Sweep <b>{name(sweep)}</b> ▾
              </>
            ),
          }}
          entries={sweeps.map((s) => ({
            key: s.id,
            onPick: () => setQuery({ sweep: String(s.id), with: null }),
            content: (
              <>
                {name(s)} · {s.addresses > 0 && `${s.addresses.toLocaleString('en-GB')} pages, `}
                {s.captures} captures{s.startedAt && !s.endedAt ? ', not finished' : ''}
              </>
            ),
          }))}
        />
      ) : (
        <span className="pick">
          Sweep <b>{name(sweep)}</b>
        </span>
      )}
      {against && (
        <DropMenu
          position="bottom-start"
          button={{
            className: 'pick against',
            children: (
              <>
                against <b>{name(against)}</b> ▾
              </>
            ),
          }}
          entries={others.map((s) => ({
            key: s.id,
            onPick: () => setQuery({ with: String(s.id) }),
            content: `${name(s)} · ${s.captures} captures`,
          }))}
        />
      )}
    </>
  );
}

export function ThemeButton() {
  const { setColorScheme } = useMantineColorScheme();
  const scheme = useComputedColorScheme('light');
  return (
    <button className="pick" onClick={() => setColorScheme(scheme === 'dark' ? 'light' : 'dark')}>
      {scheme === 'dark' ? 'Light' : 'Dark'}
      <span className="unseen"> theme</span>
    </button>
  );
}

export default island(TopBar);
