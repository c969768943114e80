import '../ui/Dialog';
import '@mantine/core/styles/Input.css';
import '@mantine/core/styles/Text.css';
import '@mantine/core/styles/Mark.css';
import '@mantine/spotlight/styles.css';
import { useMantineColorScheme, useComputedColorScheme } from '@mantine/core';
import {
  createSpotlight,
  Spotlight,
  type SpotlightActionData,
  type SpotlightActionGroupData,
} from '@mantine/spotlight';
import { useEffect } from 'react';
import { CONCERNS } from '../../core/checks/concern';
import { useBench, type Bench } from '../state/bench';
import { go } from '../state/location';
import { mayDo } from '../state/mayDo';
import { useSession } from '../state/session';
import { useVisitors } from '../state/visitors';
import { effectText, count } from '../ui/format';
import { visitorFacts } from '../visitors/VisitorSwitch';

const [store, palette] = createSpotlight();

const SHOWN = 40;

/** Pages, screens, fixes, visitors and actions by name. */
export default function Palette() {
  const bench = useBench();
  const visitors = useVisitors();
  const { setHelpOpen, editVisitor, paletteOpen, setPaletteOpen } = useSession();
  useEffect(() => (paletteOpen ? palette.open() : palette.close()), [paletteOpen]);
  const { setColorScheme } = useMantineColorScheme();
  const scheme = useComputedColorScheme('light');
  const base = bench.base;
  const groups: SpotlightActionGroupData[] = [
    { group: 'Do', actions: actionsOf(bench, base) },
    { group: 'Screens', actions: screensOf(base) },
    { group: 'Pages', actions: pagesOf(bench, base) },
    { group: 'Fixes', actions: fixesOf(bench) },
    {
      group: 'Visitors',
      actions: [
        ...visitors.map((v) => ({
          id: `visitor ${v.name}`,
          label: `Figures for: ${v.name}`,
          description: visitorFacts(v),
          onClick: () => bench.setVisitor(v.id),
        })),
        { id: 'make visitor', label: 'New visitor …', onClick: () => editVisitor(bench.visitor) },
      ],
    },
    {
      group: 'Tool',
      actions: [
        { id: 'sites', label: 'All sites', onClick: () => go('/') },
        { id: 'keys', label: 'Keys', onClick: () => setHelpOpen(true) },
        {
          id: 'theme',
          label: scheme === 'dark' ? 'Light theme' : 'Dark theme',
          onClick: () => setColorScheme(scheme === 'dark' ? 'light' : 'dark'),
        },
      ],
    },
  ];
  return (
    <Spotlight
      store={store}
      actions={groups}
      shortcut={null}
      onSpotlightClose={() => setPaletteOpen(false)}
      limit={SHOWN}
      scrollable
      maxHeight={420}
      nothingFound="Nothing has a name like that."
      searchProps={{ placeholder: 'A page, a fix, a screen, something to do', 'aria-label': 'Find' }}
      highlightQuery
      overlayProps={{ blur: 0, backgroundOpacity: 0.35 }}
      classNames={{ root: 'palette' }}
    />
  );
}

function actionsOf(bench: Bench, base: string): SpotlightActionData[] {
  const chosen = bench.chosen.length > 0;
  return [
    chosen && { id: 'clear', label: 'Clear the bench', onClick: () => bench.choose([]) },
    bench.canUndo && { id: 'undo', label: 'Undo the last change of the bench', onClick: bench.undo },
    chosen && {
      id: 'order',
      label: 'Sort the bench into the best order',
      onClick: () => void bench.order(bench.chosen).then(bench.choose),
    },
    {
      id: 'paying',
      label: 'Put all worthwhile fixes on the bench',
      onClick: () => {
        const stairs = bench.forecast?.staircase;
        if (stairs) bench.add(stairs.stairs.slice(0, stairs.paying).map((s) => s.group.id));
      },
    },
    { id: 'target', label: 'Find fixes for a target', onClick: () => go(`${base}/plan`) },
    { id: 'save', label: 'Save the bench as a plan', onClick: () => go(`${base}/plan`) },
    mayDo('auditor') && { id: 'sweep', label: 'Sweep the site again', onClick: () => go(`${base}/sweep`) },
  ].filter((a) => typeof a === 'object');
}

const screensOf = (base: string): SpotlightActionData[] => [
  { id: 'brief', label: 'Brief', onClick: () => go(base) },
  ...CONCERNS.map((c) => ({ id: c.id, label: c.name, onClick: () => go(`${base}/concerns/${c.id}`) })),
  { id: 'plan', label: 'Bench and plans', onClick: () => go(`${base}/plan`) },
  { id: 'pages', label: 'Pages', onClick: () => go(`${base}/pages`) },
  { id: 'files', label: 'Files', onClick: () => go(`${base}/files`) },
  { id: 'compare', label: 'Then & now', onClick: () => go(`${base}/compare`) },
  { id: 'field', label: 'Field data', onClick: () => go(`${base}/field`) },
  { id: 'proofs', label: 'Proofs', onClick: () => go(`${base}/proofs`) },
  { id: 'handover', label: 'Handover', onClick: () => go(`${base}/handover`) },
  { id: 'watch', label: 'Watch', onClick: () => go(`${base}/watch`) },
  { id: 'history', label: 'History of a figure', onClick: () => go(`${base}/watch?view=history`) },
  { id: 'checks', label: 'Checks and limits', onClick: () => go(`${base}/checks`) },
  { id: 'trust', label: 'How far can I trust this?', onClick: () => go(`${base}/trust`) },
];

const pagesOf = (bench: Bench, base: string): SpotlightActionData[] =>
  bench.pages.map((p) => ({
    id: `page ${p.captureId}`,
    label: p.title,
    description: p.page,
    keywords: [p.page],
    onClick: () => go(`${base}/pages/${p.captureId}`),
  }));

function fixesOf(bench: Bench): SpotlightActionData[] {
  return bench.groups.map((g) => {
    const on = bench.chosen.includes(g.id);
    const stair = bench.forecast?.staircase.stairs.find((s) => s.group.id === g.id);
    return {
      id: `fix ${g.id}`,
      label: `${on ? 'Take off the bench' : 'Put on the bench'}: ${g.title}`,
      description: `${count(g.pages, 'page')}, about ${g.effort} min${stair ? `, alone ${effectText(-stair.aloneMs)}` : ''}`,
      onClick: () => bench.toggle(g.id),
    };
  });
}
