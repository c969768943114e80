import { Menu, useMantineColorScheme, useComputedColorScheme } from '@mantine/core';
import { VISITORS } from '../../core/load/visitors';
import { useBench } from '../state/bench';
import { go, setQuery } from '../state/router';
import { useSession } from '../state/session';
import { day } from '../ui/format';
import { Kbd } from '../ui/parts';
import { useKeys } from '../ui/useKeys';
import { Brand } from './Brand';
import { JobsMenu } from './JobsMenu';
import { nextVisitor } from './nextVisitor';

/** Site, sweep, visitor switch, help and theme. */
export function TopBar() {
  const { site, sweepId, visitor, setVisitor } = useBench();
  const { setHelpOpen } = useSession();
  useKeys({ v: () => setVisitor(nextVisitor(visitor.id)) });
  const sweeps = site.value?.sweeps ?? [];
  const sweep = sweeps.find((s) => s.id === sweepId);
  return (
    <header className="top">
      <Brand />
      <a className="pick" href="/" onClick={(e) => (e.preventDefault(), go('/'))} title="All sites">
        <b>{site.value?.name ?? '…'}</b>
      </a>
      {sweep &&
        (sweeps.length > 1 ? (
          <Menu position="bottom-start">
            <Menu.Target>
              <button className="pick">
                Sweep <b>{day(sweep.day)}</b> ▾
              </button>
            </Menu.Target>
            <Menu.Dropdown>
              {sweeps.map((s) => (
                <Menu.Item key={s.id} onClick={() => setQuery({ sweep: String(s.id) })}>
                  {day(s.day)} · {s.addresses > 0 && `${s.addresses.toLocaleString('en-GB')} pages, `}
                  {s.captures} captures{s.startedAt && !s.endedAt ? ', not ended' : ''}
                </Menu.Item>
              ))}
            </Menu.Dropdown>
          </Menu>
        ) : (
          <span className="pick">
            Sweep <b>{day(sweep.day)}</b>
          </span>
        ))}
      <VisitorSwitch value={visitor.id} onChange={setVisitor} />
      <JobsMenu />
      <button className="pick" onClick={() => setHelpOpen(true)} aria-label="Keyboard shortcuts">
        Keys <Kbd>?</Kbd>
      </button>
      <ThemeButton />
    </header>
  );
}

/** For whom every figure is given. */
export function VisitorSwitch({ value, onChange }: { value: string; onChange: (id: string) => void }) {
  return (
    <div className="visitors" role="radiogroup" aria-label="Visitor">
      {VISITORS.map((v) => (
        <button
          key={v.id}
          role="radio"
          aria-checked={v.id === value}
          className={v.id === value ? 'on' : ''}
          title={`${v.screenWidth} x ${v.screenHeight} at ${v.density}x, round trip ${v.rttMs} ms, ${v.downKbps / 1000} Mbit/s down, processor ${v.cpuFactor}x slower`}
          onClick={() => onChange(v.id)}
        >
          {v.name}
        </button>
      ))}
    </div>
  );
}

export function ThemeButton() {
  const { setColorScheme } = useMantineColorScheme();
  const scheme = useComputedColorScheme('light');
  return (
    <button
      className="pick"
      onClick={() => setColorScheme(scheme === 'dark' ? 'light' : 'dark')}
      aria-label={`Theme: ${scheme}. Change`}
    >
      {scheme === 'dark' ? 'Light' : 'Dark'}
    </button>
  );
}
