import fc from 'fast-check';
import { csvReader } from '../../src/io/csv-read.ts';
import { vcdReader } from '../../src/io/vcd-read.ts';
import { wavReader } from '../../src/io/wav-read.ts';
import { wireEdges } from '../../src/wave/capture.ts';
import { measure } from '../../src/wave/measure.ts';
import { readWhole, wireText } from '../helpers/capture.ts';

const HEAD = '$timescale 10 ns $end\n$scope module m $end\n';
const TAIL = '$upscope $end\n$enddefinitions $end\n';

describe('VCD', () => {
  const file = `$date today $end
${HEAD}$var wire 1 ! clk $end
$var reg 4 " bus [3:0] $end
$var wire 1 # en $end
$var real 64 r$ level $end
$scope module deep $end
$var wire 1 % inner $end
$upscope $end
${TAIL}$comment #99 0! are no changes here $end
#0 $dumpvars 0! bx01 " z# r0 r$ 1% $end
#5
1!
b1 "
#7 0! 1#
r1.25 r$
#9 $dumpoff x! bx " x# $end
#12 $dumpon 1! b1010 " 0# $end
#12
0!
#20
`;
  const capture = readWhole(vcdReader(), file, 7);

  it('reads scalars, vectors down to their bits, reals, x and z, dumps switched off, any timescale', () => {
    expect(capture).toMatchObject({ tickHz: 1e8, from: 0, to: 20 });
    expect(capture.wires.map((wire) => wire.name)).toEqual([
      'clk',
      'bus[3]',
      'bus[2]',
      'bus[1]',
      'bus[0]',
      'en',
      'level',
      'deep.inner',
    ]);
    expect(wireText(capture, 'clk')).toBe('0:0 5:1 7:0 9:x 12:0');
    expect(wireText(capture, 'bus[3]')).toBe('0:x 5:0 9:x 12:1');
    expect(wireText(capture, 'bus[0]')).toBe('0:1 9:x 12:0');
    expect(wireText(capture, 'en')).toBe('0:z 7:1 9:x 12:0');
    expect(wireText(capture, 'level')).toBe('0:0 7:1');
    expect(wireText(capture, 'deep.inner')).toBe('0:1');
  });

  it('is the same in pieces of any length', () => {
    for (const piece of [1, 2, 3, 50, 100000]) expect(readWhole(vcdReader(), file, piece)).toEqual(capture);
  });

  it.each([
    ['', /^Byte 0: the file is empty\.$/],
    ['PK\u0003\u0004 not a dump', /^Byte 0: this is no VCD file/],
    [`${HEAD}$var wire 1 ! a $end\n`, /^Byte 64: the file ends within its declarations\.$/],
    [`${HEAD}${TAIL}`, /there is not a variable/],
    [HEAD.replace('10 ns', '7 ns') + TAIL, /timescale “7 ns” is not valid/],
    [`${HEAD}$var wire 1 ! a $end\n${TAIL}#5\n1!\n#4\n0!\n`, /^Byte \d+: time goes back from 5 to 4\.$/],
    [`${HEAD}$var wire 1 ! a $end\n${TAIL}#5\n1?\n`, /code “\?” is not declared/],
    [`${HEAD}$var wire 1 ! a $end\n${TAIL}#5\n7!\n`, /“7!” is not a change/],
    [`${HEAD}$var wire 1 ! a $end\n${TAIL}#5\nb10`, /ends within a vector/],
    [`${HEAD}$var wire 1 ! a $end\n${TAIL}#0\n$comment for ever`, /ends within a comment/],
    [`${HEAD}$var wire 1 ! a $end\n${TAIL}#5\n${'q'.repeat(1_200_000)}`, /more than a million characters/],
  ])('says what is wrong, and where: %#', (text, sentence) => {
    expect(() => readWhole(vcdReader(), text)).toThrow(sentence);
  });

  it('takes a gap of a billion ticks and ten thousand wires', () => {
    const many = Array.from({ length: 10000 }, (_, at) => `$var wire 1 n${at} w${at} $end`).join('\n');
    const wide = readWhole(
      vcdReader(),
      `${HEAD}${many}\n${TAIL}#0\n1n0\n1n9999\n#3000000000\n0n9999\n`,
      65536,
    );
    expect(wide.wires).toHaveLength(10000);
    expect(wireText(wide, 'w9999')).toBe('0:1 3000000000:0');
  });
});

describe('CSV', () => {
  it('reads levels under a heading, the unit of time in it', () => {
    const capture = readWhole(csvReader(), 'time (ms),lamp,horn\n0,0,1\n1.5,1,1\n2.25,1,0\n');
    // 2.25 ms are five decimals of a second; ticks are a nanosecond at the coarsest.
    expect(capture).toMatchObject({ tickHz: 1e9, from: 0, to: 2250000 });
    expect([wireText(capture, 'lamp'), wireText(capture, 'horn')]).toEqual([
      '0:0 1500000:1',
      '0:1 2250000:0',
    ]);
  });

  it('finds the delimiter and the decimal comma', () => {
    const capture = readWhole(csvReader(), 'Zeit [s];A\r\n0,000;0\r\n0,5;1\r\n');
    expect(wireText(capture, 'A')).toBe('0:0 500000000:1');
    expect(wireText(readWhole(csvReader(), '# made by hand\n0\t1\n2e-6\t0\n'), 'column 2')).toBe(
      '0:1 2000:0',
    );
  });

  it('makes levels of volts, its thresholds between the two levels; each change lies on a straight line', () => {
    // From 0 V to 4 V within 10 us, a sample each 10 us: the middle of 2 V is passed half way.
    const rows = ['t (us),out', '0,0', '10,0', '20,4', '30,4', '40,4', '50,0', '60,0'];
    const capture = readWhole(csvReader(), rows.join('\n'));
    expect(wireText(capture, 'out')).toBe('0:0 15000:1 45000:0');
    const moved = readWhole(csvReader({ out: { rise: 3.2, fall: 2.8 } }), rows.join('\n'));
    expect(wireText(moved, 'out')).toBe('0:0 17500:1 42500:0');
  });

  it('does not follow ripple within the hysteresis', () => {
    const noisy = [0, 0, 5, 2.6, 2.4, 2.6, 5, 0, 2.4, 2.6, 0, 0];
    const table = `s,v\n${noisy.map((volt, at) => `${at},${volt}`).join('\n')}\n`;
    const wire = readWhole(csvReader({ v: { rise: 3, fall: 2 } }), table).wires[0];
    expect([...(wire?.levels ?? [])]).toEqual([0, 1, 0]);
  });

  it.each([
    ['', /^Line 1: the file is empty\.$/],
    ['nothing but a line of words', /^Line 1: no table is seen here/],
    ['t,a\n0,0\n2,1\n1,0\n', /^Line 4: time goes back\.$/],
    ['t,a\n0,0\n1\n', /^Line 3: 1 cells instead of 2\.$/],
    [
      `t,a\n${Array.from({ length: 20000 }, (_, at) => `${at},0`).join('\n')}\n20000,7\n`,
      /^Line 20002: “7” is not a level\.$/,
    ],
    [
      `t,a\n0,1.5\n1,2.5\n${Array.from({ length: 20000 }, (_, at) => `${at + 2},0.5`).join('\n')}\n99999,oops\n`,
      /^Line 20004: “oops” is not a number\.$/,
    ],
    [`t,a\n0,0\n${'1'.repeat(9_000_000)}`, /^Line \d+: it is too long to be a row\.$/],
  ])('says what is wrong, and where: %#', (text, sentence) => {
    expect(() => readWhole(csvReader(), text, 1 << 16)).toThrow(sentence);
  });
});

/** A WAV file of one channel from samples between -1 and 1. */
function wav(samples: readonly number[], rate: number, bits: number, float = false): Uint8Array {
  const step = bits / 8;
  const bytes = new Uint8Array(44 + samples.length * step);
  const view = new DataView(bytes.buffer);
  [...'RIFF'].forEach((letter, at) => view.setUint8(at, letter.charCodeAt(0)));
  view.setUint32(4, bytes.length - 8, true);
  [...'WAVEfmt '].forEach((letter, at) => view.setUint8(8 + at, letter.charCodeAt(0)));
  view.setUint32(16, 16, true);
  view.setUint16(20, float ? 3 : 1, true);
  view.setUint16(22, 1, true);
  view.setUint32(24, rate, true);
  view.setUint32(28, rate * step, true);
  view.setUint16(32, step, true);
  view.setUint16(34, bits, true);
  [...'data'].forEach((letter, at) => view.setUint8(36 + at, letter.charCodeAt(0)));
  view.setUint32(40, samples.length * step, true);
  samples.forEach((value, at) => {
    const place = 44 + at * step;
    if (float) view.setFloat32(place, value, true);
    else if (bits === 8) view.setUint8(place, Math.round(128 + 127 * value));
    else if (bits === 16) view.setInt16(place, Math.round(32767 * value), true);
    else if (bits === 32) view.setInt32(place, Math.round(2147483647 * value), true);
    else {
      const whole = Math.round(8388607 * value);
      view.setUint16(place, whole & 0xffff, true);
      view.setInt8(place + 2, whole >> 16);
    }
  });
  return bytes;
}

describe('WAV', () => {
  const sine = Array.from({ length: 4410 }, (_, at) => 0.5 * Math.sin((2 * Math.PI * 440.3 * at) / 44100));

  it.each([
    [8, false, 300],
    [16, false, 2],
    [24, false, 2],
    [32, false, 2],
    [32, true, 2],
  ])('%i bits, float %s: a recorded tone of 440.3 Hz is measured within ppm', (bits, float, ppm) => {
    const capture = readWhole(wavReader(), wav(sine, 44100, bits, float));
    const wire = capture.wires[0];
    const trace = wire && wireEdges(wire, capture.to);
    const period = trace && measure(trace).period?.valueOf();
    const hz = capture.tickHz / (period ?? NaN);
    expect(Math.abs(hz / 440.3 - 1) * 1e6).toBeLessThan(ppm);
  });

  it.each([
    [new Uint8Array(0), /^Byte 0: the file is empty\.$/],
    [new Uint8Array(100), /^Byte 0: this is no WAV file\.$/],
    [wav([], 44100, 16), /has no samples/],
    [wav(sine, 44100, 16).slice(0, 30), /^Byte 20: the file ends within its format\.$/],
  ])('says what is wrong, and where: %#', (bytes, sentence) => {
    expect(() => readWhole(wavReader(), bytes)).toThrow(sentence);
  });
});

describe('files that were tampered with', () => {
  const vcd = `${HEAD}$var wire 1 ! a $end\n$var wire 3 " b [2:0] $end\n${TAIL}#0\n0!\nb01x "\n#5\n1!\n#9\n0!\nb111 "\n#12\n1!\n`;
  const csv = 'time (ms);a;b\n0,0;0;1,5\n1,5;1;2,5\n2,5;0;0,5\n4;1;3,5\n';
  const samples = wav([0, 0.5, 0.9, -0.5, -0.9, 0.4, 0.1], 8000, 16);
  const files: [string, () => ReturnType<typeof vcdReader>, Uint8Array][] = [
    ['VCD', vcdReader, Uint8Array.from(vcd, (letter) => letter.charCodeAt(0))],
    ['CSV', csvReader, Uint8Array.from(csv, (letter) => letter.charCodeAt(0))],
    ['WAV', wavReader, samples],
  ];
  const change = fc.record({ at: fc.nat(1000), drop: fc.nat(20), put: fc.uint8Array({ maxLength: 6 }) });

  it.each(files)('%s: 20 000 of them are read or answered in a sentence', (_, reader, whole) => {
    fc.assert(
      fc.property(
        fc.array(change, { minLength: 1, maxLength: 4 }),
        fc.integer({ min: 1, max: 64 }),
        (changes, piece) => {
          let bytes = [...whole];
          for (const { at, drop, put } of changes) bytes.splice(at % (bytes.length + 1), drop, ...put);
          bytes = bytes.slice(0, 5000);
          try {
            const { wires, from, to } = readWhole(reader(), Uint8Array.from(bytes), piece);
            const ordered = wires.every(({ times }) =>
              times.every((time, at) => at === 0 || time >= (times[at - 1] ?? 0)),
            );
            // A call of expect would take longer than reading the file.
            return from <= to && ordered;
          } catch (error) {
            if (!(error instanceof Error) || error.constructor.name !== 'CaptureError') throw error;
            return /^[A-Z“].*\.$/s.test(error.message);
          }
        },
      ),
      { numRuns: 20_000 },
    );
  });
});
