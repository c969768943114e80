import { expect } from 'chai';
import fc from 'fast-check';
import { checkSchedule, isDue, nextStart, type Schedule } from '../../../src/core/watch/schedule';
import { InputError } from '../../../src/core/capture/errors';

const schedule = (more: Partial<Schedule> = {}): Schedule => ({
  what: 'sweep',
  cron: '0 3 * * 1',
  zone: 'Europe/Berlin',
  on: true,
  ...more,
});
const at = (text: string) => new Date(text);
const starts = (s: Schedule, after: string) => nextStart(s, at(after))?.toISOString();

describe('core/watch/schedule', () => {
  it('counts in its own time zone, summer and winter', () => {
    expect(starts(schedule(), '2026-07-01T00:00:00Z')).to.equal('2026-07-06T01:00:00.000Z');
    expect(starts(schedule(), '2026-12-01T00:00:00Z')).to.equal('2026-12-07T02:00:00.000Z');
    expect(starts(schedule({ zone: 'UTC' }), '2026-12-01T00:00:00Z')).to.equal('2026-12-07T03:00:00.000Z');
  });

  it('waits until the quiet hours are over, also past midnight', () => {
    const quiet = { from: '22:00', to: '06:30' };
    expect(starts(schedule({ quiet }), '2026-12-01T00:00:00Z')).to.equal('2026-12-07T05:30:00.000Z');
    expect(starts(schedule({ cron: '0 23 * * 1', quiet }), '2026-12-01T00:00:00Z')).to.equal(
      '2026-12-08T05:30:00.000Z',
    );
    expect(starts(schedule({ cron: '0 7 * * 1', quiet }), '2026-12-01T00:00:00Z')).to.equal('2026-12-07T06:00:00.000Z');
    expect(starts(schedule({ quiet: { from: '01:00', to: '05:00' } }), '2026-12-01T00:00:00Z')).to.equal(
      '2026-12-07T04:00:00.000Z',
    );
  });

  it('ends quiet hours by the clock on the night on which clocks go back', () => {
    // 25 October 2026: 03:00 summer time becomes 02:00.
    const s = schedule({ cron: '30 1 * * 0', quiet: { from: '01:00', to: '05:00' } });
    expect(starts(s, '2026-10-24T12:00:00Z')).to.equal('2026-10-25T04:00:00.000Z');
  });

  it('starts once, however much was missed', () => {
    const hourly = schedule({ cron: '0 * * * *', zone: 'UTC' });
    const last = at('2026-12-01T00:00:00Z');
    expect(isDue(hourly, last, at('2026-12-01T00:59:59Z'))).to.equal(false);
    expect(isDue(hourly, last, at('2026-12-01T01:00:00Z'))).to.equal(true);
    expect(isDue(hourly, last, at('2026-12-09T12:20:00Z'))).to.equal(true);
    expect(isDue(hourly, at('2026-12-09T12:20:00Z'), at('2026-12-09T12:20:01Z'))).to.equal(false);
  });

  it('does not catch up within quiet hours, nor when it is off', () => {
    const s = schedule({ cron: '0 12 * * *', zone: 'UTC', quiet: { from: '20:00', to: '08:00' } });
    expect(isDue(s, at('2026-12-01T00:00:00Z'), at('2026-12-03T23:00:00Z'))).to.equal(false);
    expect(isDue(s, at('2026-12-01T00:00:00Z'), at('2026-12-04T08:00:00Z'))).to.equal(true);
    expect(isDue({ ...s, on: false }, at('2026-12-01T00:00:00Z'), at('2026-12-04T08:00:00Z'))).to.equal(false);
  });

  it('refuses what means nothing, and names the field', () => {
    const where = (s: Schedule) => {
      try {
        checkSchedule(s);
        return undefined;
      } catch (error) {
        expect(error).to.be.instanceOf(InputError);
        return (error as InputError).where;
      }
    };
    expect(where(schedule())).to.equal(undefined);
    expect(where(schedule({ cron: '0 3 1-7 * *' }))).to.equal(undefined);
    expect(where(schedule({ cron: '* * * * *' }))).to.equal('cron');
    expect(where(schedule({ cron: '0 0 3 * * 1' }))).to.equal('cron');
    expect(where(schedule({ cron: '61 3 * * 1' }))).to.equal('cron');
    expect(where(schedule({ cron: '0 3 31 2 *' }))).to.equal('cron');
    expect(where(schedule({ zone: 'Europe/Fernhollow' }))).to.equal('zone');
    expect(where(schedule({ quiet: { from: '25:00', to: '06:00' } }))).to.equal('quiet.from');
    expect(where(schedule({ quiet: { from: '22:00', to: '22:00' } }))).to.equal('quiet');
  });

  it('never starts within its quiet hours', () => {
    const time = fc.tuple(fc.integer({ min: 0, max: 23 }), fc.integer({ min: 0, max: 59 }));
    const text = ([h, m]: [number, number]) => `${String(h).padStart(2, '0')}:${String(m).padStart(2, '0')}`;
    fc.assert(
      fc.property(
        time,
        time,
        time,
        fc.constantFrom('UTC', 'Europe/Berlin', 'America/St_Johns', 'Asia/Kolkata'),
        fc.date({ min: at('2026-01-01T00:00:00Z'), max: at('2027-12-31T00:00:00Z'), noInvalidDate: true }),
        (planned, from, to, zone, after) => {
          fc.pre(text(from) !== text(to));
          const s = schedule({
            cron: `${planned[1]} ${planned[0]} * * *`,
            zone,
            quiet: { from: text(from), to: text(to) },
          });
          const next = nextStart(s, after) as Date;
          const clock = next.toLocaleTimeString('en-GB', { timeZone: zone, hour: '2-digit', minute: '2-digit' });
          const inside =
            text(from) < text(to) ? clock >= text(from) && clock < text(to) : clock >= text(from) || clock < text(to);
          expect(inside, `${clock} in ${text(from)} to ${text(to)}`).to.equal(false);
          expect(next.getTime()).to.be.greaterThan(after.getTime());
        },
      ),
      { numRuns: 150 },
    );
  });
});
