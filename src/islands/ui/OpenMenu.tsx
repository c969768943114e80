import '@mantine/core/styles/Popover.css';
import '@mantine/core/styles/Menu.css';
import { Menu } from '@mantine/core';
import type { DropMenuProps } from './DropMenu';

/** A menu that has been opened once: its button stays the same, its list comes and goes. */
export default function OpenMenu({ entries, position, width, stays, listClass, button }: DropMenuProps) {
  return (
    <Menu position={position} width={width} closeOnItemClick={!stays} defaultOpened>
      <Menu.Target>
        <button {...button} />
      </Menu.Target>
      <Menu.Dropdown className={listClass}>
        {entries.map((e) =>
          'rule' in e ? (
            <Menu.Divider key={e.key} />
          ) : 'words' in e ? (
            <Menu.Label key={e.key}>{e.words}</Menu.Label>
          ) : (
            <Menu.Item key={e.key} aria-label={e.label} disabled={e.disabled} onClick={e.onPick}>
              {e.content}
            </Menu.Item>
          ),
        )}
      </Menu.Dropdown>
    </Menu>
  );
}
