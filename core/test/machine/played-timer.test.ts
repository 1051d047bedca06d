import { PlayedTimer } from '../../src/machine/played-timer.ts';

/** A counter of 100 ticks a run, a tick 2 cycles. */
function counter(): PlayedTimer {
  return new PlayedTimer({ first: 0, n: 2, d: 1 }, 100, 100);
}

describe('a counter that is played', () => {
  it('ends its runs each 200 cycles', () => {
    const ends = counter().ends();
    const times = [1, 2, 3].map(() => {
      const at = ends.next();
      ends.took();
      return at;
    });
    expect(times).toEqual([200, 400, 600]);
  });

  it('rounds ticks of a fraction of a cycle up to the cycle that sees them', () => {
    const timer = new PlayedTimer({ first: 5, n: 4, d: 3 }, 10, 10);
    // 10 x 4 / 3 = 13.3, 20 x 4 / 3 = 26.7; the counter starts at cycle 5.
    const ends = timer.ends();
    expect(ends.next()).toBe(5 + 14);
    ends.took();
    expect(ends.next()).toBe(5 + 27);
  });

  it('matches once a run, and a new match at once holds in the same run if it is ahead', () => {
    const timer = counter();
    const ends = timer.ends();
    const match = timer.match('A', 30, false);
    expect(match.next()).toBe(60);
    timer.put('A', 50, 20);
    expect(match.next()).toBe(100);
    match.took();
    // It was there: the next one is that of the next run.
    expect(match.next()).toBe(200 + 100);
    ends.next();
    ends.took();
    expect(match.next()).toBe(300);
  });

  it('misses a match that is put behind the counter', () => {
    const timer = counter();
    const match = timer.match('A', 80, false);
    timer.put('A', 10, 100);
    expect(match.next()).toBe(200 + 20);
  });

  it('takes a buffered match over at the end of the run', () => {
    const timer = counter();
    const ends = timer.ends();
    const match = timer.match('A', 30, true);
    timer.put('A', 50, 10);
    expect(match.next()).toBe(60);
    match.took();
    ends.next();
    ends.took();
    expect(match.next()).toBe(200 + 100);
  });

  it('takes a new length over at the end of the run', () => {
    const timer = counter();
    const ends = timer.ends();
    timer.putLength(40);
    expect(ends.next()).toBe(200);
    ends.took();
    expect(ends.next()).toBe(280);
  });

  it('leaves out a match beyond the end of a run', () => {
    const timer = counter();
    const ends = timer.ends();
    const match = timer.match('A', 100, false);
    timer.putLength(150);
    ends.next();
    ends.took();
    expect(match.next()).toBe(200 + 200);
  });

  it('goes on once where a match at 0 comes in the same cycle as the end of a run', () => {
    const timer = counter();
    const ends = timer.ends();
    const match = timer.match('A', 0, false);
    timer.put('A', 0, 1);
    expect([ends.next(), match.next()]).toEqual([200, 200]);
    match.took();
    ends.took();
    expect(ends.next()).toBe(400);
  });
});
