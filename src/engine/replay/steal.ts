import fs from 'node:fs';

/** Ticks since boot (proc(5), /proc/stat); zeros where a system has no such thing. */
function processorTimes(): { all: number; steal: number } {
  let text: string;
  try {
    text = fs.readFileSync('/proc/stat', 'utf8');
  } catch {
    return { all: 0, steal: 0 };
  }
  const [, ...ticks] = (text.split('\n')[0] ?? '').trim().split(/\s+/);
  const n = ticks.map(Number);
  return { all: n.slice(0, 8).reduce((a, b) => a + b, 0), steal: n[7] ?? 0 };
}

/** Share of processor time that the host of this machine took away since the last look. */
export function stealMeter(): () => number {
  let before = processorTimes();
  return () => {
    const after = processorTimes();
    const share = (after.steal - before.steal) / Math.max(1, after.all - before.all);
    before = after;
    return share;
  };
}
