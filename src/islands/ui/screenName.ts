import { CONCERNS } from '../../core/checks/finding';

const NAMES: readonly (readonly [RegExp, string])[] = [
  [/^\/pages\/\d+/, 'Page'],
  [/^\/pages/, 'Pages'],
  [/^\/facts\//, 'Page facts'],
  [/^\/plan/, 'Bench and plans'],
  [/^\/checks/, 'Checks and limits'],
  [/^\/trust/, 'How far can I trust this?'],
  [/^\/sweep/, 'New sweep'],
  [/^\/jobs\//, 'Sweep'],
];

/** Name of the screen at a path below a site, as the tab of the browser shows it. */
export function screenName(rest: string): string {
  const concern = /^\/concerns\/(\w+)/.exec(rest)?.[1];
  return CONCERNS.find((c) => c.id === concern)?.name ?? NAMES.find(([path]) => path.test(rest))?.[1] ?? 'Brief';
}
