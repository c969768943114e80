/**
 * Makes demo/field.csv: what the garden's made-up visitors came to in two months, by page and of the whole origin, as
 * p75s with shares. Visits are loads of the demo's captures by a mix of visitors; two pages differ from the lab for reasons
 * of their own (a slow server while the plant sale opens, a consent layer that is the largest text of Membership).
 */
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { toCsv } from '../src/core/handover/csv';
import { THRESHOLDS, type FieldMetric } from '../src/core/field/fieldData';
import { linksOf, WEIGHTS, type Mix } from '../src/core/field/mix';
import { PERTURBATIONS } from '../src/core/load/range';
import { simulate } from '../src/core/load/simulate';
import { benchPages } from '../src/engine/services/benchPages';
import { seedDemo } from '../src/engine/services/seedDemo';
import { openStore } from '../src/engine/store/store';

const MIXES: Readonly<Record<'phone' | 'desktop', Mix>> = {
  phone: { rttMs: 95, downKbps: 3600, cpuFactor: 3.1, spread: 1.7 },
  desktop: { rttMs: 32, downKbps: 24_000, cpuFactor: 1.3, spread: 1.5 },
};
const VISITS: Readonly<Record<string, number>> = {
  '/': 5200,
  '/plant-sale/': 3100,
  '/visit/': 2600,
  '/glasshouse/': 1900,
};
const OTHER_VISITS = 700;
const SWEEPS = [
  { id: 1, month: '2026-09' },
  { id: 2, month: '2026-10' },
] as const;

interface Weighed {
  readonly value: number;
  readonly weight: number;
}

const p75 = (values: readonly Weighed[]) => {
  const sorted = [...values].sort((a, b) => a.value - b.value);
  const total = sorted.reduce((sum, v) => sum + v.weight, 0);
  let below = 0;
  return sorted.find((v) => (below += v.weight) >= 0.75 * total)?.value ?? 0;
};
const share = (values: readonly Weighed[], fits: (value: number) => boolean) =>
  values.filter((v) => fits(v.value)).reduce((sum, v) => sum + v.weight, 0) /
  values.reduce((sum, v) => sum + v.weight, 0);

const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'keen-lens-field-'));
const store = await openStore(folder);
await seedDemo(store);
const rows: (string | number)[][] = [];
for (const { id, month } of SWEEPS)
  for (const device of ['phone', 'desktop'] as const) {
    const all: Record<'ttfbMs' | 'fcpMs' | 'lcpMs', Weighed[]> = { ttfbMs: [], fcpMs: [], lcpMs: [] };
    const { pages } = await benchPages(store, id, device);
    for (const { row, graph } of pages) {
      const at = new URL(row.page).pathname;
      const visits = Math.round((VISITS[at] ?? OTHER_VISITS) * (device === 'phone' ? 1 : 0.6));
      const own: typeof all = { ttfbMs: [], fcpMs: [], lcpMs: [] };
      const late = at === '/plant-sale/' ? 900 : 0;
      for (const [k, link] of linksOf(MIXES[device]).entries())
        for (const draw of PERTURBATIONS) {
          const m = simulate(graph, link, draw).milestones;
          const weight = (WEIGHTS[k] ?? 0) * visits;
          own.ttfbMs.push({ value: m.ttfbMs + late, weight });
          own.fcpMs.push({ value: m.fcpMs + late, weight });
          own.lcpMs.push({ value: (at === '/membership/' ? m.fcpMs + 80 : m.lcpMs) + late, weight });
        }
      rows.push(line(row.page, device, month, visits, own));
      for (const metric of ['ttfbMs', 'fcpMs', 'lcpMs'] as const) all[metric].push(...own[metric]);
    }
    rows.push(line('https://www.fernhollow.example', device, month, 0, all));
  }
function line(
  address: string,
  device: string,
  month: string,
  visits: number,
  of: Record<'ttfbMs' | 'fcpMs' | 'lcpMs', Weighed[]>,
) {
  const shares = (['lcpMs', 'fcpMs'] as const).flatMap((metric: FieldMetric & ('lcpMs' | 'fcpMs')) => {
    const [good, poor] = THRESHOLDS[metric];
    return [share(of[metric], (v) => v <= good), share(of[metric], (v) => v > poor)].map(
      (s) => Math.round(s * 1000) / 1000,
    );
  });
  return [
    address,
    device,
    month,
    visits || '',
    ...(['ttfbMs', 'fcpMs', 'lcpMs'] as const).map((m) => Math.round(p75(of[m]) / 10) * 10),
    ...shares,
  ];
}
const out = path.join(path.dirname(fileURLToPath(import.meta.url)), 'field.csv');
const columns = [
  'url',
  'device',
  'month',
  'visits',
  'TTFB ms',
  'FCP ms',
  'LCP ms',
  'LCP good',
  'LCP poor',
  'FCP good',
  'FCP poor',
];
fs.writeFileSync(out, toCsv(columns, rows));
await store.destroy();
fs.rmSync(folder, { recursive: true, force: true });
console.log(`${out}: ${rows.length} rows`);
process.exit(0);
