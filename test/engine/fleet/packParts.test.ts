import { expect } from 'chai';
import fc from 'fast-check';
import { packParts, unpackParts } from '../../../src/engine/fleet/packParts';
import { SideBySide } from '../../../src/engine/fleet/sideBySide';

const value = fc.letrec((tie) => ({
  any: fc.oneof(
    { maxDepth: 4 },
    fc.string(),
    fc.integer(),
    fc.boolean(),
    fc.constant(null),
    fc.uint8Array({ maxLength: 40 }).map((b) => Buffer.from(b)),
    fc.array(tie('any'), { maxLength: 4 }),
    fc.dictionary(
      fc.string().filter((k) => k !== '$part' && k !== '__proto__'),
      tie('any'),
      { maxKeys: 4 },
    ),
  ),
})).any;

describe('engine/fleet/packParts', () => {
  it('gives back what was packed', () => {
    fc.assert(fc.property(value, (v) => void expect(unpackParts(packParts(v), 'x')).to.deep.equal(v)));
  });

  it('packs bytes that occur twice once', () => {
    const body = Buffer.alloc(10_000, 7);
    expect(packParts({ before: [body], after: [body] }).length).to.be.below(10_200);
  });

  it('says of what is damaged that it is, and never reads beyond it', () => {
    fc.assert(
      fc.property(value, fc.nat(), fc.uint8Array({ maxLength: 6 }), (v, at, noise) => {
        const packed = packParts(v);
        const cut = packed.subarray(0, at % packed.length);
        for (const bytes of [cut, Buffer.concat([noise, packed]), Buffer.from(noise)]) {
          try {
            unpackParts(bytes, 'the test');
          } catch (error) {
            expect(String(error)).to.contain('is damaged');
          }
        }
      }),
    );
  });
});

describe('engine/fleet/sideBySide', () => {
  it('runs what has to be alone with nothing beside it, whatever comes when', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.boolean(), { maxLength: 12 }), async (kinds) => {
        const sideBySide = new SideBySide();
        let shared = 0;
        let alone = 0;
        const ran: number[] = [];
        const work = (nth: number, isAlone: boolean) => async () => {
          if (isAlone) alone++;
          else shared++;
          expect(alone === 0 || (alone === 1 && shared === 0)).to.equal(true);
          await new Promise((done) => setImmediate(done));
          if (isAlone) alone--;
          else shared--;
          ran.push(nth);
          if (nth % 3 === 0) throw new Error('broke off');
        };
        await Promise.all(
          kinds.map((isAlone, nth) =>
            (isAlone ? sideBySide.alone(work(nth, true)) : sideBySide.shared(work(nth, false))).catch(() => undefined),
          ),
        );
        expect(ran).to.have.members(kinds.map((_, nth) => nth));
      }),
    );
  });
});
