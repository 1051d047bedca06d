import { join } from 'node:path';
import { loadCommand } from '../src/run/load.ts';

const example = (name: string): string => join(__dirname, `../../examples/${name}.plan.json`);

describe('hz load', () => {
  it('tells loads, readings and knobs of the demo in text', async () => {
    const { text, fails } = await loadCommand(example('harbour-buoy'), { table: true });
    expect(fails).toBe(false);
    expect(text).toMatch(/^Lantern\n {2}100.mA, lit for 400.ms of 4.s\n/);
    expect(text).toMatch(/readings: 1\.5.ms is 59°/);
    expect(text).toMatch(/knob: 1.% to 100.%\. Half of the turn gives/);
  });

  it('gives the setting for a reading of the knob: 511 of 1023 from 0.8 to 4 Hz', async () => {
    const { text } = await loadCommand(example('tower-clock'), { signal: 'pendulum-strobe', knob: 511 });
    const [row] = JSON.parse(text) as { knob: { at: { setting: { top: number; compare: number } } } }[];
    // 8000 + floor(511 x 32,000 / 1023) = 23,984 tenths of a mHz; 46,848 x 10,000 / 23,984 counts.
    expect(row?.knob.at.setting.top).toBe(Math.floor(468_480_000 / 23_984) - 1);
    // A pulse keeps its time.
    expect(row?.knob.at.setting.compare).toBe(94);
  });

  it('refuses a reading that the knob does not have, and a signal that is not there', async () => {
    await expect(
      loadCommand(example('tower-clock'), { signal: 'pendulum-strobe', knob: 1024 }),
    ).rejects.toThrow('A reading of 10 bits is at most 1023; 1024 is more.');
    await expect(loadCommand(example('tower-clock'), { signal: 'bell' })).rejects.toThrow('no signal “bell”');
  });
});
