import { expect } from 'chai';
import { recorded } from '../fixtures/recorded';

const WORK = 'for (let began = performance.now(); performance.now() - began < 5; );';

describe('engine/record: what set later work off, and how soon frames are seen', () => {
  it('tells of timers when they were set and for how long, and when paints were made', async () => {
    const { measured, observations } = await recorded(
      `<!doctype html><title>Fern</title><body><p>Everything about ferns</p><script>
document.addEventListener('DOMContentLoaded', () => setTimeout(() => { ${WORK} document.body.append('Open today'); }, 300));
</script>`,
    );
    const work = observations?.work?.find((w) => w.timer?.delayMs === 300);
    const { setMs = -1 } = work?.timer ?? {};
    expect(setMs).to.be.within(0, (measured.dclMs ?? -1) + 1);
    expect(work?.startMs).to.be.at.least(setMs + 299);
    expect(measured.fcpPaintMs).to.be.within(1, measured.fcpMs ?? 0);
    expect(measured.lcpPaintMs).to.be.within(1, measured.lcpMs ?? 0);
  });
});
