import { captureOf, storedCapture } from '../src/state/backup.ts';

const CAPTURE = {
  plan: 'a',
  name: 'bench.vcd',
  wires: { lamp: 'D0' },
  capture: {
    tickHz: 1e9,
    from: 0,
    to: 1e10,
    wires: [
      { name: 'D0', times: Float64Array.from([0, 1.5, 2 ** 52]), levels: Uint8Array.from([0, 1, 3]) },
      {
        name: 'A0',
        times: new Float64Array(0),
        levels: new Uint8Array(0),
        analog: {
          times: Float64Array.from([1, 2]),
          values: Float32Array.from([0.5, -1.25]),
          rise: 2,
          fall: 1,
        },
      },
    ],
  },
};

describe('captures in a backup', () => {
  it('come back as they were, through the text of the file', () => {
    const { name, wires, capture } = CAPTURE;
    const text = JSON.stringify(storedCapture(CAPTURE));
    expect(captureOf(JSON.parse(text) as ReturnType<typeof storedCapture>)).toEqual({ name, wires, capture });
  });

  it('are refused where a wire is incomplete', () => {
    const stored = storedCapture(CAPTURE);
    const [wire] = stored.capture.wires;
    if (wire) wire.levels = { bytes: '' };
    expect(() => captureOf(stored)).toThrow('the wire D0 is incomplete');
  });
});
