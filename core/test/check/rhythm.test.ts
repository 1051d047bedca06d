import { checkRhythm, type WantedRhythm } from '../../src/check/check-rhythm.ts';

/** Two flashes of 1 s with 1 s between them, then 5 s dark: each time may be off by a tenth. */
const WANTED: WantedRhythm = {
  beats: [
    { high: { low: 0.9, high: 1.1 }, low: { low: 0.9, high: 1.1 } },
    { high: { low: 0.9, high: 1.1 }, low: { low: 4.5, high: 5.5 } },
  ],
  cycle: { low: 7.2, high: 8.8 },
};

function verdicts(
  beats: readonly (readonly [number, number])[],
  cycleS: number | undefined,
  tolerancePpm = 0,
): Record<string, string> {
  const own = beats.map(([highS, lowS]) => ({ highS, lowS }));
  const checks = checkRhythm(own, cycleS, WANTED, tolerancePpm);
  return Object.fromEntries(checks.map(({ label, verdict }) => [label ?? '', verdict]));
}

describe('a rhythm', () => {
  it('passes where every time is within its limits, at their very ends too', () => {
    expect(
      verdicts(
        [
          [1, 1],
          [1, 5],
        ],
        8,
      ),
    ).toEqual({ 'pulse length': 'pass', gap: 'pass', cycle: 'pass' });
    expect(
      verdicts(
        [
          [0.9, 1.1],
          [1.1, 5.5],
        ],
        8.6,
      ),
    ).toEqual({
      'pulse length': 'pass',
      gap: 'pass',
      cycle: 'pass',
    });
  });

  it('fails for one pulse that is short, however good the others are', () => {
    expect(
      verdicts(
        [
          [1, 1],
          [0.89, 5],
        ],
        7.89,
      ),
    ).toMatchObject({ 'pulse length': 'fail', gap: 'pass' });
  });

  it('fails for the rest alone, and names the time that is farthest off', () => {
    const [, gap] = checkRhythm(
      [
        { highS: 1, lowS: 1 },
        { highS: 1, lowS: 6 },
      ],
      9,
      WANTED,
      0,
    );
    expect(gap).toMatchObject({ label: 'gap', value: 6, low: 4.5, high: 5.5, verdict: 'fail' });
    expect(gap?.margin).toBeCloseTo(-0.5);
  });

  it('takes the oscillator off the margin: 1.1 s is too long by 20 ppm of it', () => {
    expect(
      verdicts(
        [
          [1.1, 1],
          [1, 5],
        ],
        8.1,
        20,
      ),
    ).toMatchObject({ 'pulse length': 'fail' });
  });

  it('leaves pulses to the check of their number where there are more or fewer', () => {
    expect(verdicts([[1, 6]], 7)).toEqual({ cycle: 'fail' });
  });

  it('does not look at what comes after the last pulse where it does not begin again', () => {
    expect(
      verdicts(
        [
          [1, 1],
          [1, Infinity],
        ],
        undefined,
      ),
    ).toEqual({ 'pulse length': 'pass', gap: 'pass' });
  });
});
