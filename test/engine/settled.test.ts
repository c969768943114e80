import { expect } from 'chai';
import { settled } from '../../src/engine/record/settled';
import { recorded } from '../fixtures/recorded';

const later = <T>(ms: number, value: T) => new Promise<T>((done) => setTimeout(() => done(value), ms));
const HOUR = 3_600_000;

const idle = () => Promise.resolve();
const TIMES = { quietMs: 20, until: Date.now() + HOUR, turnMs: 2000 };

describe('engine/record: until a page has settled', () => {
  it('waits until the network is quiet', async () => {
    const ages = [0, 5, 10, 200];
    let asked = 0;
    const quietMs = () => ages[Math.min(asked++, ages.length - 1)] ?? 0;
    expect(await settled({ quietMs, turn: idle }, { ...TIMES, quietMs: 100 })).to.equal(undefined);
    expect(asked).to.be.at.least(4);
  });

  it('waits anew when the page was at work', async () => {
    let turns = 0;
    const turn = () => (++turns === 1 ? later(250, 0) : Promise.resolve(0));
    expect(await settled({ quietMs: () => HOUR, turn }, TIMES)).to.equal(undefined);
    expect(turns, 'the work, and two looks at an idle page').to.equal(3);
  });

  it('looks twice: the first look may come between a script and the frame that it asked for', async () => {
    let turns = 0;
    const turn = () => (++turns === 2 ? later(250, 0) : Promise.resolve(0));
    expect(await settled({ quietMs: () => HOUR, turn }, TIMES)).to.equal(undefined);
    expect(turns).to.equal(4);
  });

  it('says what goes on: requests, work until the limit, play without end, or a page that hangs', async () => {
    const works = { quietMs: () => HOUR, turn: () => later(250, 0) };
    expect(await settled({ quietMs: () => 0, turn: idle }, { ...TIMES, until: Date.now() - 1 })).to.equal('requests');
    expect(await settled(works, { ...TIMES, until: Date.now() + 100 })).to.equal('work');
    expect(await settled(works, { ...TIMES, workMs: 400 })).to.equal('work');
    const hangs = { quietMs: () => HOUR, turn: () => new Promise(() => undefined) };
    expect(await settled(hangs, { ...TIMES, turnMs: 20 })).to.equal('hangs');
  });

  it('does not wait for a page that is gone, and stops when it is told to', async () => {
    const gone = () => Promise.reject(new Error('Target closed'));
    expect(await settled({ quietMs: () => HOUR, turn: gone }, TIMES)).to.equal(undefined);
    const stop = AbortSignal.abort(new Error('stopped'));
    const fault = await settled({ quietMs: () => 0, turn: gone }, TIMES, stop).catch(String);
    expect(fault).to.match(/abort|stopped/i);
  });

  it('is later than the network’s quiet for an application that builds itself', async () => {
    const { measured } = await recorded(`<!doctype html><title>Fern</title><body><script>
onload = () => setTimeout(() => {
  const began = performance.now();
  while (performance.now() - began < 900);
  document.body.append('Everything about ferns');
});
</script>`);
    expect(measured.fcpMs, 'its first content').to.be.a('number');
    expect(measured.lcpMs).to.be.at.least(900);
  });
});
