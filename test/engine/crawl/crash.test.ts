import { expect } from 'chai';
import { killSweeps } from '../../../bench/crash/killedSweeps';
import { tempFolder } from '../../fixtures/temp';

/** Two kills here; many more are a bench: `npm run bench:crash`. */
const KILLS = 2;

describe('a sweep that is killed', () => {
  const temp = tempFolder('crash');
  after(() => temp.remove());

  it(`loses and doubles nothing, whenever that happens (${KILLS} times)`, async function () {
    this.timeout(240_000);
    const { kills, sweeps, faults } = await killSweeps(temp.folder, KILLS, 'x');
    expect(faults).to.deep.equal([]);
    expect(kills).to.equal(KILLS);
    expect(sweeps).to.be.above(0);
  });
});
