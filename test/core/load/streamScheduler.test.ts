import { expect } from 'chai';
import fc from 'fast-check';
import { StreamScheduler } from '../../../src/core/load/streamScheduler';

/** Ids in the order in which turns are handed over, until nothing is left. */
function order(
  byUrgency: boolean,
  streams: readonly (readonly [id: number, bytes: number, level: number, shares: boolean])[],
) {
  const turns = new StreamScheduler(byUrgency);
  for (const [id, left, level, shares] of streams) turns.add({ id, left, turn: 10, level, shares });
  const out: number[] = [];
  for (let turn = turns.hand(); turn; turn = turns.hand()) out.push(turn.id);
  return out;
}

describe('core/load/streamScheduler', () => {
  it('serves all in turn where urgency is not honoured', () => {
    expect(
      order(false, [
        [1, 20, 1, true],
        [2, 20, 4, false],
      ]),
    ).to.deep.equal([1, 2, 1, 2]);
  });

  it('serves the most urgent first, whole; the incremental in turn (RFC 9218, 10)', () => {
    expect(
      order(true, [
        [1, 20, 2, true],
        [2, 20, 2, true],
        [3, 20, 4, false],
        [4, 10, 4, false],
      ]),
    ).to.deep.equal([3, 3, 4, 1, 2, 1, 2]);
  });

  it('hands over every byte once', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 1, max: 500 }), fc.integer({ min: 0, max: 4 }), fc.boolean()), {
          maxLength: 20,
        }),
        fc.boolean(),
        (list, byUrgency) => {
          const turns = new StreamScheduler(byUrgency);
          list.forEach(([left, level, shares], id) => turns.add({ id, left, turn: 16, level, shares }));
          const sums = new Array<number>(list.length).fill(0);
          for (let turn = turns.hand(); turn; turn = turns.hand()) sums[turn.id] = (sums[turn.id] ?? 0) + turn.bytes;
          expect(sums).to.deep.equal(list.map(([left]) => left));
          expect(turns.size).to.equal(0);
        },
      ),
    );
  });
});
