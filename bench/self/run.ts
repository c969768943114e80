/**
 * `npm run bench:self`: our own pages, by our own means. Starts the built application with the demo, loads every screen
 * cold, records it as phone and desktop, audits it with our own checks, forecasts it for the built-in visitors, and
 * writes docs/self.md.
 */
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { Harm } from '../../src/core/checks/concern';
import { deviceOf, VISITORS } from '../../src/core/load/visitors';
import { simulate } from '../../src/core/load/simulate';
import { recordPages } from '../../src/engine/record/record';
import { harFile } from '../../src/engine/record/writeHar';
import { importHar } from '../../src/engine/services/importHar';
import { getCapture } from '../../src/engine/store/captures';
import { openStore, projectRoot } from '../../src/engine/store/store';
import { machine } from '../machine';
import { withDemo, type DemoServer } from './demoServer';
import { LIMITS, loadScreen, MOST_SHIFT, PHONE, SCREENS, type FirstLoad } from './firstLoad';
import { PRELOAD_NAMES, preloadChange, type Preload } from './preloadHeaders';
import { measureMoves, measureToggles } from './moves';

const COLD_LOADS = 3;
/** What our own pages should reach. */
const WANTED = { coldMs: 700, moveMs: 150, toggleMs: 100, lcpMs: 2500, cls: MOST_SHIFT } as const;

/** Gain of a preload header that is worth its bytes, ms. */
const WORTHWHILE_MS = 50;

const signedMs = (value: number) => `${value > 0 ? '+' : ''}${Math.round(value)} ms`;
const ms = (value: number) => `${Math.round(value)} ms`;
const kB = (value: number) => `${(value / 1000).toFixed(0)} kB`;
const median = (list: readonly number[]) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)] ?? 0;
const table = (head: readonly string[], rows: readonly (readonly string[])[]) =>
  [head, head.map(() => '---'), ...rows].map((cells) => `| ${cells.join(' | ')} |`).join('\n');
const verdict = (ok: boolean) => (ok ? 'yes' : 'no');

const parts = await withDemo(async (server) => [
  await firstLoads(server),
  await movesAndToggles(server),
  await audited(server),
]);
fs.writeFileSync(
  path.join(projectRoot(), 'docs/self.md'),
  `# Keen Lens, looked at by Keen Lens

Made by \`npm run bench:self\` (${machine()}). Do not edit: \`bench/self\` writes it. The built application with the demo,
on loopback; every first load with an empty cache.

${parts.join('\n')}`,
);
process.exit(0);

async function firstLoads({ base, browser }: DemoServer): Promise<string> {
  const rows: string[][] = [];
  for (const screen of SCREENS) {
    const loads: FirstLoad[] = [];
    for (let i = 0; i < COLD_LOADS; i++) loads.push(await loadScreen(browser, base + screen.path));
    const phone = await loadScreen(browser, base + screen.path, PHONE);
    const { scriptBytes, styleBytes, fontBytes, pageBytes } = loads[0] as FirstLoad;
    const coldMs = median(loads.map((l) => l.fcpMs));
    const cls = Math.max(...loads.map((l) => l.cls), phone.cls);
    const ok =
      scriptBytes <= LIMITS.scriptBytes &&
      styleBytes <= LIMITS.styleBytes &&
      coldMs <= WANTED.coldMs &&
      cls <= WANTED.cls;
    rows.push([
      screen.name,
      kB(scriptBytes),
      kB(styleBytes),
      kB(fontBytes),
      kB(pageBytes),
      ms(coldMs),
      cls.toFixed(3),
      verdict(ok),
    ]);
    console.log(rows.at(-1)?.join(' '));
  }
  return `## First loads

As transferred, in a window of 1280 x 800; layout shift (CLS) of the worst load there and at 400 x 860. Wanted: at most
${kB(LIMITS.scriptBytes)} of JavaScript (the bench's worker included), ${kB(LIMITS.styleBytes)} of CSS, first content within ${ms(WANTED.coldMs)} (median of ${COLD_LOADS}), CLS under ${WANTED.cls}.

${table(['Screen', 'JavaScript', 'CSS', 'Fonts', 'Page', 'First content', 'CLS', 'As wanted'], rows)}
`;
}

async function movesAndToggles(server: DemoServer): Promise<string> {
  const lines = [
    ['Moves between screens', await measureMoves(server), WANTED.moveMs] as const,
    ['Toggles of the bench', await measureToggles(server), WANTED.toggleMs] as const,
  ].map(([what, times, wanted]) => {
    const worst = Math.max(...times);
    const sorted = [...times].sort((a, b) => a - b);
    const most = sorted[Math.floor(sorted.length * 0.9)] ?? 0;
    return [what, String(times.length), ms(median(times)), ms(most), ms(worst), ms(wanted), verdict(worst <= wanted)];
  });
  for (const line of lines) console.log(line.join(' '));
  return `## Moves and toggles

From the click to the drawn content, in one window; moves with the pointer, which rests on a link for 150 ms first.

${table(['What', 'Times', 'Median', '90 % within', 'Slowest', 'Wanted', 'Slowest within'], lines)}
`;
}

async function audited({ base }: DemoServer): Promise<string> {
  const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'keen-lens-own-'));
  const store = await openStore(folder);
  const forecasts: string[][] = [];
  const headers = new Map<Preload, { screen: string; lcpMs: number; fcpMs: number }[]>();
  const findings = new Map<string, { harm: Harm; screens: Set<string> }>();
  for (const device of ['phone', 'desktop'] as const) {
    const visitor = VISITORS.find((v) => deviceOf(v) === device) ?? VISITORS[0];
    for (const screen of SCREENS) {
      const pages = await recordPages([base + screen.path], {
        visitor: visitor!,
        allowPrivate: true,
        timeoutMs: 12_000,
      });
      const { captures } = await importHar(store, Buffer.from(harFile(pages, '1')), `${device} ${screen.name}.har`);
      const full = await getCapture(store, captures[0]?.id ?? 0);
      if (!full) throw new Error(`${screen.path} could not be recorded`);
      for (const f of full.findings) {
        const known = findings.get(`${f.check}: ${f.title}`) ?? { harm: f.harm, screens: new Set() };
        findings.set(`${f.check}: ${f.title}`, known);
        known.screens.add(screen.name);
      }
      for (const v of VISITORS.filter((v) => deviceOf(v) === device)) {
        const { lcpMs, fcpMs, bytes } = simulate(full.audit.graph, v).milestones;
        const ok = v !== VISITORS[0] || lcpMs <= WANTED.lcpMs;
        if (v === VISITORS[0])
          for (const what of PRELOAD_NAMES) {
            const change = { screen: screen.name, ...preloadChange(full.audit.graph, what, v) };
            headers.set(what, [...(headers.get(what) ?? []), change]);
          }
        forecasts.push([screen.name, v.name, ms(fcpMs), ms(lcpMs), kB(bytes), verdict(ok)]);
        console.log(forecasts.at(-1)?.join(' '));
      }
    }
  }
  await store.destroy();
  fs.rmSync(folder, { recursive: true, force: true });
  const preloads = [...headers].map(([what, changes]) => {
    const best = [...changes].sort((a, b) => a.lcpMs - b.lcpMs)[0];
    return [
      what,
      signedMs(median(changes.map((c) => c.fcpMs))),
      signedMs(median(changes.map((c) => c.lcpMs))),
      best ? `${signedMs(best.lcpMs)} (${best.screen})` : '',
    ];
  });
  const rank = ['broken', 'exposed', 'slow', 'tidy'];
  const rows = [...findings]
    .sort((a, b) => rank.indexOf(a[1].harm) - rank.indexOf(b[1].harm) || b[1].screens.size - a[1].screens.size)
    .map(([what, { harm, screens }]) => [
      harm,
      what.replaceAll('|', '/').replaceAll(base, ''),
      screens.size === SCREENS.length ? 'all' : [...screens].join(', '),
    ]);
  return `## Forecast for the built-in visitors

Recorded on loopback by our own recorder, simulated by our own load model. Wanted: LCP under ${ms(WANTED.lcpMs)} for the phone on a
busy mobile network.

${table(['Screen', 'Visitor', 'FCP', 'LCP', 'Bytes', 'As wanted'], forecasts)}

## Preload headers

What \`Link: rel=preload\` headers would change for the phone on a busy mobile network, by our own forecast; less is
better. They pay where a screen in the middle gains at least ${ms(WORTHWHILE_MS)}. An early answer (status 103, RFC 8297) is out of the
question: browsers heed it over HTTP/2 and later only, and the application is served by HTTP/1.1.

${table(['Files', 'FCP, median of screens', 'LCP, median of screens', 'LCP, best screen'], preloads)}

## What our own checks find

Loopback is served by plain http, on purpose.

${rows.length === 0 ? 'Nothing.' : table(['Harm', 'Finding', 'Screens'], rows)}
`;
}
