import type { AccuracyPoint } from '../../src/core/plan/accuracy';
import { accuracyLayout } from '../../src/islands/charts/accuracyLayout';

const SIZE = 560;

/** An SVG of forecast against measured changes, for reading in the repository. */
export function accuracyPlot(points: readonly AccuracyPoint[]): string {
  const { dots, ticks, lines } = accuracyLayout(points, SIZE, 48);
  const n = (v: number) => v.toFixed(1);
  const share = (v: number) => `${Math.round(v * 100)} %`;
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${SIZE} ${SIZE}" font-family="sans-serif" font-size="12">`,
    `<rect width="${SIZE}" height="${SIZE}" fill="#fbfaf7"/>`,
    ...lines.map(
      (l) =>
        `<line x1="${n(l.x1)}" y1="${n(l.y1)}" x2="${n(l.x2)}" y2="${n(l.y2)}" stroke="#5d6567" ${l.off === 0 ? '' : 'stroke-dasharray="3 4"'}/>`,
    ),
    ...ticks.map(
      (t) =>
        `<text x="${n(t.x)}" y="${SIZE - 30}" text-anchor="middle" fill="#5d6567">${share(t.share)}</text><text x="42" y="${n(t.y + 4)}" text-anchor="end" fill="#5d6567">${share(t.share)}</text>`,
    ),
    ...dots.map((d) =>
      d.point.held
        ? `<path d="M${n(d.x - 4)} ${n(d.y)}l4 -4l4 4l-4 4z" fill="none" stroke="#8a3b12" stroke-width="1.4"/>`
        : `<circle cx="${n(d.x)}" cy="${n(d.y)}" r="3.2" fill="#22506b" fill-opacity=".55"/>`,
    ),
    `<text x="${SIZE / 2}" y="${SIZE - 8}" text-anchor="middle" fill="#22292b">measured change of hero paint, of the base</text>`,
    `<text transform="translate(12 ${SIZE / 2}) rotate(-90)" text-anchor="middle" fill="#22292b">forecast</text>`,
    `<circle cx="70" cy="22" r="3.2" fill="#22506b" fill-opacity=".55"/><text x="80" y="26" fill="#22292b">pages that constants were fitted on</text>`,
    `<path d="M66 40l4 -4l4 4l-4 4z" fill="none" stroke="#8a3b12" stroke-width="1.4"/><text x="80" y="44" fill="#22292b">pages held back</text>`,
    '</svg>',
    '',
  ].join('\n');
}
