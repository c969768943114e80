import { Dialog } from '../ui/Dialog';
import { useSession } from '../state/session';
import { Kbd } from '../ui/parts';

/** Every key, by where it works. */
const KEYS: readonly { readonly where: string; readonly keys: readonly (readonly [string, string])[] }[] = [
  {
    where: 'Everywhere',
    keys: [
      ['Ctrl K', 'find a page, a fix, a screen, an action'],
      ['v', 'next visitor'],
      ['u', 'undo the last change of the bench'],
      ['?', 'this list'],
    ],
  },
  {
    where: 'In lists',
    keys: [
      ['j / k', 'next / previous row'],
      ['Enter', 'open the row'],
      ['b', 'put the row on the bench, or take it off'],
      ['e', 'show the evidence'],
      ['/', 'search in this view'],
    ],
  },
  {
    where: 'On a page',
    keys: [
      ['[ / ]', 'previous / next page'],
      ['→ / ←', 'along what the hero waits for, step by step (in the picture of the load)'],
      ['+ / − / 0', 'zoom in, out, all (there too)'],
      ['Esc', 'clear step and span'],
    ],
  },
  {
    where: 'On the bench and in plans',
    keys: [
      ['Alt ↑ / ↓', 'move the fix in the order'],
      ['x', 'take the marked fix off'],
    ],
  },
];

export default function ShortcutSheet() {
  const { helpOpen, setHelpOpen } = useSession();
  return (
    <Dialog opened={helpOpen} onClose={() => setHelpOpen(false)} title="Keys" size="md" centered>
      {KEYS.map(({ where, keys }) => (
        <table className="plain" key={where}>
          <caption>{where}</caption>
          <tbody>
            {keys.map(([key, what]) => (
              <tr key={key}>
                <td>
                  <Kbd>{key}</Kbd>
                </td>
                <td>{what}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ))}
    </Dialog>
  );
}
