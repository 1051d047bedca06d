import fc from 'fast-check';
import { csvLayout } from '../../src/io/csv-layout.ts';
import { captureKind, readCapture } from '../../src/io/capture-file.ts';
import { readVcdHeader } from '../../src/io/vcd-header.ts';
import { column, longestKnown, lowerBound, wireEdges } from '../../src/wave/capture.ts';
import { proposeThreshold, thresholded } from '../../src/wave/threshold.ts';

describe('thresholds', () => {
  it('lie between the two levels, whatever they are and however often each is seen', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -5, max: 5, noNaN: true }),
        fc.double({ min: 0.5, max: 10, noNaN: true }),
        fc.integer({ min: 3, max: 97 }),
        fc.array(fc.double({ min: -0.05, max: 0.05, noNaN: true }), { minLength: 200, maxLength: 200 }),
        (low, swing, share, ripple) => {
          const values = ripple.map((off, at) => low + (at % 100 < share ? swing : 0) + off * swing);
          const found = proposeThreshold(values);
          expect(found?.fall).toBeGreaterThan(low + 0.1 * swing);
          expect(found?.rise).toBeLessThan(low + 0.9 * swing);
          expect((found?.rise ?? 0) - (found?.fall ?? 0)).toBeGreaterThan(0);
        },
      ),
    );
    expect(proposeThreshold([2, 2, 2])).toBeUndefined();
    expect(proposeThreshold([])).toBeUndefined();
  });

  it('turn a sampled square wave back into its edges, within half a sample', () => {
    fc.assert(
      fc.property(fc.integer({ min: 8, max: 200 }), fc.integer({ min: 2, max: 6 }), (period, high) => {
        const count = 12 * period;
        const width = Math.max(2, Math.floor((period * high) / 8));
        const values = Float32Array.from({ length: count }, (_, at) => (at % period < width ? 3.3 : 0));
        const times = Float64Array.from({ length: count }, (_, at) => at * 100);
        const { times: edges, levels } = thresholded('a', times, values, { rise: 2, fall: 1 });
        expect(levels[0]).toBe(1);
        // From the last sample of a level to the first of the next the line crosses the middle half way, at 1.5 of 3.3.
        for (let at = 1; at < edges.length; at += 1) {
          const whole = Math.floor(at / 2) * period + (at % 2 === 1 ? width : 0);
          expect(Math.abs((edges[at] ?? 0) - (whole - 0.5) * 100)).toBeLessThan(6);
        }
      }),
    );
  });
});

describe('columns of changes', () => {
  it('keep what changes: the last of several values at one time, nothing that stays', () => {
    const own = column();
    for (const [time, level] of [
      [0, 0],
      [5, 1],
      [5, 2],
      [7, 2],
      [9, 0],
      [9, 1],
    ] as const)
      own.push(time, level);
    const { times, levels } = own.wire('a');
    expect([[...times], [...levels]]).toEqual([
      [0, 5, 9],
      [0, 2, 1],
    ]);
  });

  it('grow as far as they must', () => {
    const own = column();
    for (let at = 0; at < 1000; at += 1) own.push(at, at % 2);
    expect(own.wire('a').times).toHaveLength(1000);
  });

  it('are a trace where their level is known longest', () => {
    const wire = {
      name: 'a',
      times: Float64Array.from([0, 10, 20, 30, 40, 90]),
      levels: Uint8Array.from([1, 2, 0, 1, 0, 3]),
    };
    expect(longestKnown(wire, 100)).toEqual({ from: 20, to: 90 });
    expect(wireEdges(wire, 100)).toEqual({ start: 0, edges: Float64Array.from([30, 40]), from: 20, to: 90 });
    expect(wireEdges({ ...wire, levels: Uint8Array.from([2, 2, 3, 3, 2, 2]) }, 100)).toBeUndefined();
  });

  it('are found by halving', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(100), { maxLength: 40 }), fc.nat(100), (list, value) => {
        const sorted = Float64Array.from(list).sort();
        expect(lowerBound(sorted, value)).toBe([...sorted].filter((one) => one < value).length);
      }),
    );
  });
});

describe('how a table is written', () => {
  it.each([
    [
      'time,a\n0,0\n0.001,1\n',
      { delimiter: ',', decimalComma: false, unitS: 1, tickHz: 1e9, digital: [true] },
    ],
    [
      't [us];U1;U2\n0;1,2;0\n2,5;1,3;1\n',
      { delimiter: ';', decimalComma: true, unitS: 1e-6, digital: [false, true] },
    ],
    ['0\t1\n1e-10\t0\n', { delimiter: '\t', tickHz: 1e10, names: ['column 1', 'column 2'] }],
    ['Time/ns|D0|D1\n0|L|H\n10|H|x\n', { delimiter: '|', unitS: 1e-9, digital: [true, true] }],
    [
      'device: made up\nrate, 1000\n\ns,ch1\n0,0.1\n0.001,0.2\n',
      { delimiter: ',', names: ['s', 'ch1'], digital: [false] },
    ],
    ['0.0000000000001,1\n0.0000000000002,0\n', { tickHz: 1e13 }],
    ['0 1 0\n1 0 1\n', { delimiter: ' ', digital: [true, true] }],
  ])('is found out: %#', (text, layout) => {
    expect(csvLayout(text.split('\n').filter((line) => line !== ''))).toMatchObject(layout);
  });
});

describe('heads of dumps', () => {
  const head = (body: string): string => `$timescale 1ns $end ${body} $enddefinitions $end`;

  it('name wires by their scopes, without what all of them share', () => {
    const { variables, tickHz } = readVcdHeader(
      head(
        '$scope module top $end $var wire 1 a x $end $scope module io $end $var wire 1 b y $end $upscope $end',
      ),
    );
    expect(tickHz).toBe(1e9);
    expect(variables.map(({ name }) => name)).toEqual(['x', 'io.y']);
  });

  it.each([
    ['$var wire 4 a bus [3:0] $end', [3, 2, 1, 0]],
    ['$var wire 4 a bus [0:3] $end', [0, 1, 2, 3]],
    ['$var reg 2 a bus[5:4] $end', [5, 4]],
    ['$var wire 3 a bus $end', [2, 1, 0]],
  ])('take the bits of %s from the left', (body, bits) => {
    expect(readVcdHeader(head(body)).variables[0]?.bits).toEqual(bits);
  });
});

describe('capture files', () => {
  const bytes = (text: string): Uint8Array => Uint8Array.from(text, (letter) => letter.charCodeAt(0));

  it.each([
    ['a.bin', 'RIFF....WAVE', 'wav'],
    ['a.txt', '  $date today', 'vcd'],
    ['a.vcd', '#0', 'vcd'],
    ['a.wav', 'x', 'wav'],
    ['a', 't,a\n0,1', 'csv'],
  ])('%s beginning with %j is %s', (name, begin, kind) => {
    expect(captureKind(name, bytes(begin))).toBe(kind);
  });

  it('are read piece by piece, with how far it has come, and can be stopped', async () => {
    async function* pieces(): AsyncGenerator<Uint8Array> {
      for (const piece of ['t,a\n0,0\n', '1,1\n', '2,0\n']) yield await Promise.resolve(bytes(piece));
    }
    const seen: number[] = [];
    const whole = await readCapture('a.csv', pieces(), (count) => {
      seen.push(count);
      return false;
    });
    expect([seen, whole?.to]).toEqual([[8, 12, 16], 2e9]);
    expect(await readCapture('a.csv', pieces(), (count) => count > 10)).toBeUndefined();
  });
});
