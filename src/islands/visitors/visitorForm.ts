import type { Visitor } from '../../core/load/visitors';

/** The fields of a visitor as they stand in a form. */
export interface VisitorFields {
  readonly screenWidth: number;
  readonly screenHeight: number;
  readonly density: number;
  readonly touch: boolean;
  readonly rttMs: number;
  readonly downKbps: number;
  readonly upKbps: number;
  readonly cpuFactor: number;
}

/** A field of the form: what it is called, its unit, what it means and what may stand in it. */
export interface VisitorField {
  readonly name: Exclude<keyof VisitorFields, 'touch'>;
  readonly label: string;
  readonly unit: string;
  readonly least: number;
  readonly most: number;
  readonly step: number;
  readonly means: string;
}

export const VISITOR_FIELDS: readonly VisitorField[] = [
  {
    name: 'screenWidth',
    label: 'Screen width',
    unit: 'px',
    least: 200,
    most: 7680,
    step: 1,
    means: 'In CSS pixels: the width that pages are laid out for. Below 700 the recordings of a phone are used.',
  },
  {
    name: 'screenHeight',
    label: 'Screen height',
    unit: 'px',
    least: 200,
    most: 7680,
    step: 1,
    means: 'In CSS pixels.',
  },
  {
    name: 'density',
    label: 'Density',
    unit: 'x',
    least: 0.5,
    most: 5,
    step: 0.1,
    means: 'Device pixels per CSS pixel: decides which srcset candidate is used.',
  },
  {
    name: 'rttMs',
    label: 'Round trip',
    unit: 'ms',
    least: 0,
    most: 3000,
    step: 1,
    means: 'From the device to a server and back. Every new connection costs two to three of them.',
  },
  {
    name: 'downKbps',
    label: 'Down',
    unit: 'kbit/s',
    least: 50,
    most: 10_000_000,
    step: 1,
    means: 'Download rate of the connection: 1 Mbit/s is 1,000 kbit/s.',
  },
  {
    name: 'upKbps',
    label: 'Up',
    unit: 'kbit/s',
    least: 20,
    most: 10_000_000,
    step: 1,
    means: 'Upload rate of the connection.',
  },
  {
    name: 'cpuFactor',
    label: 'CPU slowdown',
    unit: 'x',
    least: 0.2,
    most: 30,
    step: 0.1,
    means: 'How many times slower than the recording machine: a mid-range phone is about 4.',
  },
];

/** What is wrong with a field, in words; undefined when nothing is. */
export function fieldFault(field: VisitorField, value: number): string | undefined {
  if (!Number.isFinite(value)) return `${field.label} needs a number.`;
  if (value < field.least || value > field.most)
    return `${field.label} goes from ${field.least} to ${field.most.toLocaleString('en-GB')} ${field.unit}.`;
  return undefined;
}

export function fieldsOf(v: Visitor): VisitorFields {
  const { screenWidth, screenHeight, density, touch, rttMs, downKbps, upKbps, cpuFactor } = v;
  return { screenWidth, screenHeight, density, touch, rttMs, downKbps, upKbps, cpuFactor };
}
