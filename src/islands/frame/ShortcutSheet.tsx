import { Modal } from '@mantine/core';
import { useSession } from '../state/session';
import { Kbd } from '../ui/parts';

const KEYS = [
  ['j / k', 'next / previous row'],
  ['Enter', 'open the row'],
  ['b', 'put the row on the bench, or take it off'],
  ['/', 'search in this view'],
  ['v', 'next visitor'],
  ['[ / ]', 'previous / next page'],
  ['u', 'undo the last change of the bench'],
  ['?', 'this list'],
] as const;

export function ShortcutSheet() {
  const { helpOpen, setHelpOpen } = useSession();
  return (
    <Modal opened={helpOpen} onClose={() => setHelpOpen(false)} title="Keys" size="sm" centered>
      <table className="plain">
        <tbody>
          {KEYS.map(([key, what]) => (
            <tr key={key}>
              <td>
                <Kbd>{key}</Kbd>
              </td>
              <td>{what}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Modal>
  );
}
