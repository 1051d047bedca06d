import { csvReader } from '../../src/io/csv-read.ts';
import { vcdReader } from '../../src/io/vcd-read.ts';
import { wavReader } from '../../src/io/wav-read.ts';
import { readWhole, wireText } from '../helpers/capture.ts';

describe('what a VCD file may declare', () => {
  const read = (head: string) => () =>
    readWhole(vcdReader(), `$timescale 1 ns $end\n${head}$enddefinitions $end\n#0\n`);

  it('wires of many bits', () => {
    const wires = Array.from({ length: 100 }, (_, at) => `$var wire 65536 n${at} bus${at} $end\n`).join('');
    expect(read(wires)).toThrow('more than 20000 wires of one bit are declared; export fewer of them.');
  });

  it('scopes within each other, and names', () => {
    expect(read('$scope module m $end\n'.repeat(5000))).toThrow('scopes are nested deeper than 100.');
    expect(read(`$var wire 1 ! ${'n'.repeat(1000)} $end\n`)).toThrow('a name has more than 400 characters.');
  });
});

describe('values that are no reading', () => {
  it('in a table are named and left out', () => {
    const file = 'time (s),probe\n0,0\n1,3.3\n2,9.91E+37\n3,3.3\n4,NaN\n5,0\n6,-Infinity\n7,0\n';
    const capture = readWhole(csvReader(), file);
    expect(wireText(capture, 'probe').replace(/\d+:/g, '')).toBe('0 1 0');
    expect(capture.notes).toEqual([
      'Line 4: “9.91E+37” of probe is not a reading; it and 2 more like it were left out.',
    ]);
    expect(capture.wires[0]?.analog?.values).toHaveLength(5);
  });

  it('in a VCD file too', () => {
    const head = '$timescale 1 s $end\n$var real 64 r probe $end\n$enddefinitions $end\n';
    const capture = readWhole(vcdReader(), `${head}#0 r0 r\n#1 r1.5 r\n#2 rNaN r\n#3 r0 r\n#4\n`);
    expect(wireText(capture, 'probe')).toBe('0:0 1:1 3:0');
    expect(capture.notes?.[0]).toMatch(/^Byte \d+: “NaN” of probe is not a reading; it was left out\.$/);
  });
});

describe('a recording', () => {
  /** A WAV file of one channel of 16 bits, with a square wave of a period of so many samples. */
  function recording(samples: number, period: number, extra = ''): Uint8Array {
    const bytes = new Uint8Array(44 + extra.length + 2 * samples);
    const view = new DataView(bytes.buffer);
    const put = (at: number, text: string): void => bytes.set(Buffer.from(text, 'latin1'), at);
    put(0, 'RIFF');
    put(8, `WAVE${extra}fmt `);
    const at = 12 + extra.length;
    for (const [place, value] of [
      [4, 16],
      [12, 48000],
      [16, 96000],
    ] as const)
      view.setUint32(at + place, value, true);
    for (const [place, value] of [
      [8, 1],
      [10, 1],
      [20, 2],
      [22, 16],
    ] as const)
      view.setUint16(at + place, value, true);
    put(at + 24, 'data');
    view.setUint32(at + 28, 2 * samples, true);
    for (let n = 0; n < samples; n += 1) {
      view.setInt16(at + 32 + 2 * n, n % period < period / 2 ? 12_000 : -12_000, true);
    }
    return bytes;
  }

  it('is the same in pieces of any length, and passes over chunks it does not know', () => {
    const plain = readWhole(wavReader(), recording(1000, 20));
    expect(plain.wires[0]?.times).toHaveLength(100);
    for (const piece of [1, 7, 100]) {
      expect(readWhole(wavReader(), recording(1000, 20), piece)).toEqual(plain);
      expect(readWhole(wavReader(), recording(1000, 20, 'LIST\x03\x00\x00\x00abc\x00'), piece)).toEqual(
        plain,
      );
    }
  });

  it('of many samples keeps its edges and lets its samples go', () => {
    const reader = wavReader();
    const whole = recording(1_100_000, 100);
    reader.push(whole.subarray(0, 44));
    // The head says four times more samples than one piece holds.
    new DataView(whole.buffer).setUint32(40, 8_800_000, true);
    const long = wavReader();
    long.push(whole.subarray(0, 44));
    for (let part = 0; part < 4; part += 1) long.push(whole.subarray(44));
    const capture = long.end();
    expect(capture.wires[0]?.analog).toBeUndefined();
    expect(capture.wires[0]?.times).toHaveLength(88_000);
    expect(capture.to).toBe(4_400_000 * 1024);
  });
});
