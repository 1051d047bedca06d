import { waveformSource, wireSource } from '@herzschlag/core';
import { rulerTicks, strokesOf } from '../src/components/drawing/lanes.ts';

const wire = { name: 'a', times: Float64Array.from([10, 20, 30]), levels: Uint8Array.from([1, 0, 2]) };
const source = wireSource(wire, { tickHz: 1, from: 10, to: 40, wires: [wire] });

describe('what is drawn of a source', () => {
  it('is one line where edges are sparse, half way up where the level is not known', () => {
    const [stroke] = strokesOf(source, { from: 0, to: 40 }, 40);
    expect(stroke).toEqual({
      kind: 'line',
      points: [
        [0, 0.5],
        [10, 0.5],
        [10, 1],
        [20, 1],
        [20, 0],
        [30, 0],
        [30, 0.5],
        [40, 0.5],
      ],
    });
  });

  it('is unknown after the capture has ended', () => {
    const steady = { name: 'a', times: Float64Array.from([0]), levels: Uint8Array.from([1]) };
    const short = wireSource(steady, { tickHz: 1, from: 0, to: 30, wires: [steady] });
    expect(strokesOf(short, { from: 0, to: 40 }, 40)).toEqual([
      {
        kind: 'line',
        points: [
          [0, 1],
          [30, 1],
          [30, 0.5],
          [40, 0.5],
        ],
      },
    ]);
  });

  it('is a busy stretch where edges are denser than pixels, between straight lines', () => {
    const lane = {
      cycle: { periodTicks: 2, edges: { rise: 0, fall: 1 } },
      scale: 1,
      settled: 0,
      begin: new Float64Array(0),
    };
    const strokes = strokesOf(waveformSource(lane, 1000), { from: -10, to: 10 }, 100);
    expect(strokes.map(({ kind }) => kind)).toEqual(['line', 'busy']);
    expect(strokes[1]).toMatchObject({ to: 100 });
  });

  it('has a ruler of round times', () => {
    expect(rulerTicks({ from: -0.2, to: 10 }, 8)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10]);
    expect(rulerTicks({ from: 0.00101, to: 0.00109 }, 8).map((tick) => Math.round(tick * 1e6))).toEqual([
      1010, 1020, 1030, 1040, 1050, 1060, 1070, 1080, 1090,
    ]);
  });
});
