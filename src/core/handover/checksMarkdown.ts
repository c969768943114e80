import { CHECKS } from '../checks';
import { CONCERNS } from '../checks/concern';
import type { Check } from '../checks/finding';
import { limitText } from '../checks/texts';
import { FIX_KINDS } from '../fixes';

const CAUSE = {
  target: 'one file or address',
  host: 'one host',
  place: 'one place in a template',
} as const;

function limits(check: Check): string {
  return (check.thresholds ?? [])
    .map((t) => `- Limit \`${check.id}.${t.id}\`, ${t.name}: ${limitText(t, t.value)}. ${t.why}\n`)
    .join('');
}

/** The page of documentation about checks and kinds of fix, in Markdown. */
export function checksMarkdown(): string {
  const parts = CONCERNS.map(({ id, name }) => {
    const own = CHECKS.filter((c) => c.concern === id);
    return `## ${name}\n\n${own.map((c) => `### \`${c.id}\`\n\n${c.question}\n\n- Examines: ${c.examines}\n- Cannot see: ${c.cannotSee}\n- Harm: ${c.harms.map((h) => h[0]?.toUpperCase() + h.slice(1)).join(', ')}; one cause is ${CAUSE[c.groupedBy ?? 'target']}\n- Standard: ${c.standard}\n- Change: ${c.change}\n- Fixed when: ${c.fixedWhen}\n${limits(c)}`).join('\n')}`;
  });
  const fixes = [...FIX_KINDS]
    .sort((a, b) => a.order - b.order)
    .map((k) => `| \`${k.id}\` | ${k.title} | ${k.effort} min |`)
    .join('\n');
  return `# Checks and fixes\n\nMade from the code by \`npm run docs\`. A finding's harm is *Broken* (a browser refuses or warns), *Exposed*\n(travels readable or can be downgraded), *Slow* (costs a visitor time) or *Tidy* (nothing a visitor notices).\n\n${parts.join('\n')}\n## Kinds of fix\n\nEach is an edit of the load graph and an edit of the source. They are applied in this order, whatever order\nthey were chosen in.\n\n| id | what | effort |\n|---|---|---|\n${fixes}\n`;
}
