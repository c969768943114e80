import type { Device } from '../capture/capture';
import { InputError } from '../capture/errors';
import type { Link } from './graph';

/** A device and a connection: for whom figures are given. */
export interface Visitor extends Link {
  readonly id: string;
  readonly name: string;
  /** For sentences: "A phone visitor". */
  readonly who: string;
  readonly screenWidth: number;
  readonly screenHeight: number;
  readonly density: number;
  readonly touch: boolean;
}

/** The visitors that come with the tool. */
export const VISITORS: readonly Visitor[] = [
  {
    id: 'phone-busy',
    name: 'Phone, busy mobile',
    who: 'A phone visitor on a busy mobile network',
    screenWidth: 400,
    screenHeight: 860,
    density: 2.5,
    touch: true,
    rttMs: 150,
    downKbps: 2000,
    upKbps: 800,
    cpuFactor: 4,
  },
  {
    id: 'phone-wifi',
    name: 'Phone, wifi',
    who: 'A phone visitor on good wifi',
    screenWidth: 400,
    screenHeight: 860,
    density: 2.5,
    touch: true,
    rttMs: 40,
    downKbps: 20000,
    upKbps: 8000,
    cpuFactor: 4,
  },
  {
    id: 'desktop',
    name: 'Desktop',
    who: 'A desktop visitor on a home line',
    screenWidth: 1366,
    screenHeight: 768,
    density: 1,
    touch: false,
    rttMs: 25,
    downKbps: 40000,
    upKbps: 10000,
    cpuFactor: 1,
  },
];

/** The visitor that figures are for when nobody chose one. */
export const DEFAULT_VISITOR = VISITORS[0] as Visitor;

/** The first built-in visitor with a device. */
export const visitorWith = (device: Device): Visitor => VISITORS.find((v) => deviceOf(v) === device) ?? DEFAULT_VISITOR;

/** Which recordings speak for a visitor. */
export function deviceOf(visitor: Pick<Visitor, 'screenWidth'>): Device {
  return visitor.screenWidth < 700 ? 'phone' : 'desktop';
}

/** The spec of a visitor, as `parseVisitor` reads it; the id of a built-in one. */
export function visitorSpec(v: Visitor): string {
  return VISITORS.some((known) => known.id === v.id) ? v.id : specText(v);
}

/** Device and connection as a spec. */
export function specText(v: Omit<Visitor, 'id' | 'name' | 'who'>): string {
  const { screenWidth, screenHeight, density, touch, rttMs, downKbps, upKbps, cpuFactor } = v;
  const screen = `screen=${screenWidth}x${screenHeight}@${density}`;
  return `${screen},${touch ? 'touch,' : ''}rtt=${rttMs},down=${downKbps},up=${upKbps},cpu=${cpuFactor}`;
}

/**
 * A visitor by id or name, or by a spec such as `screen=400x860@2.5,touch,rtt=150,down=2000,up=800,cpu=4`
 * (ms, kbit/s, factor). A spec that starts with an id changes that visitor: `phone-busy,rtt=300`.
 * @throws InputError naming the part that is wrong.
 */
export function parseVisitor(text: string): Visitor {
  const parts = text
    .split(',')
    .map((p) => p.trim())
    .filter(Boolean);
  const named = (t: string) =>
    VISITORS.find((v) => v.id === t.toLowerCase() || v.name.toLowerCase() === t.toLowerCase());
  const whole = named(text.trim());
  if (whole) return whole;
  const base = parts[0] ? named(parts[0]) : undefined;
  if (!base && !parts.some((p) => p.includes('='))) {
    throw new InputError(
      `There is no visitor "${text}".`,
      text,
      `Known: ${VISITORS.map((v) => v.id).join(', ')}; or give a spec.`,
    );
  }
  let visitor: Visitor = { ...(base ?? (VISITORS[0] as Visitor)), id: '', name: text, who: 'A visitor' };
  if (!base) visitor = { ...visitor, touch: false };
  for (const part of base ? parts.slice(1) : parts) visitor = { ...visitor, ...visitorPart(part, text) };
  return { ...visitor, id: visitorSpec(visitor) };
}

function visitorPart(part: string, whole: string): Partial<Visitor> {
  const bad = (rule: string): never => {
    throw new InputError(`"${part}" is not understood in a visitor.`, whole, rule);
  };
  if (part === 'touch') return { touch: true };
  const [key, value = ''] = part.split('=');
  if (key === 'screen') {
    const m = /^(\d+)x(\d+)(?:@([\d.]+))?$/.exec(value);
    if (!m) return bad('Write screen=WIDTHxHEIGHT@DENSITY.');
    return { screenWidth: Number(m[1]), screenHeight: Number(m[2]), density: Number(m[3] ?? 1) };
  }
  const n = Number(value);
  const names: Record<string, keyof Link> = { rtt: 'rttMs', down: 'downKbps', up: 'upKbps', cpu: 'cpuFactor' };
  const name = key ? names[key] : undefined;
  if (!name || !Number.isFinite(n) || n < 0 || (n === 0 && name !== 'rttMs')) {
    return bad('Use screen=, touch, rtt= (ms), down= and up= (kbit/s), cpu= (factor).');
  }
  return { [name]: n };
}
