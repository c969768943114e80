import type { SourceElement } from '../../source/document';
import type { ElementTree } from '../../source/selectors';
import { finding, type Check } from '../finding';

const WORDS = /(^|[-_ ])(cookie|cookies|consent|gdpr|privacy|dialog|modal|popup|overlay|newsletter)([-_ ]|$)/i;

/** What was measured as the largest paint is a dialog in front of the page. */
export const heroDialog: Check = {
  id: 'hero-dialog',
  concern: 'hero',
  question: 'Is the hero (LCP element) part of the page, or a dialog in front of it?',
  examines: 'Whether the hero is inside a dialog, by element, role or class names.',
  cannotSee: 'Dialogs that only some visitors see: the recorder is a new visitor.',
  fixedWhen: 'A new recording has a hero outside the dialog.',
  harms: ['tidy'],
  standard: 'HTML, 4.11.4 (dialog); WAI-ARIA 1.2, dialog and alertdialog',
  change: 'Make the dialog smaller, and put its text into the page instead of loading it by script.',
  groupedBy: 'place',
  examine(subject) {
    const { hero, page } = subject;
    const tree = page.rendered;
    const seen = tree && (hero.path ? tree.document.byPath.get(hero.path) : undefined);
    const dialog =
      (seen && tree && dialogAround(tree, seen)) ??
      (hero.element && page.tree && dialogAround(page.tree, hero.element));
    if (!dialog) return [];
    return [
      finding({
        check: this,
        subject,
        harm: 'tidy',
        target: hero.url ?? hero.path ?? page.capture.page,
        element: hero.element,
        path: hero.path,
        load: hero.load,
        title: `The hero is in a dialog (${dialog})`,
        plain:
          'New visitors see a dialog in front of the page. The measured times are those of the dialog, not of the page behind it.',
      }),
    ];
  },
};

/** How the dialog around an element is to be known; undefined when there is none. */
function dialogAround(tree: ElementTree, element: SourceElement): string | undefined {
  for (let e: SourceElement | undefined = element; e; e = tree.parentOf(e)) {
    if (e.tag === 'html' || e.tag === 'body' || e.tag === 'main') return undefined;
    if (e.tag === 'dialog') return 'dialog element';
    const role = e.attributes.get('role') ?? '';
    if (/^(alert)?dialog$/.test(role) || e.attributes.get('aria-modal') === 'true') return `role ${role || 'modal'}`;
    const name = [e.attributes.get('id'), e.attributes.get('class')].find((n) => n !== undefined && WORDS.test(n));
    if (name !== undefined) return `${e.tag} "${name.slice(0, 60)}"`;
  }
  return undefined;
}
