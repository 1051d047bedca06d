import { tracedLanes, writeCsv, writeVcd, writeWav } from '@herzschlag/core';
import { writeWhole } from '../files.ts';
import { loadPlan } from '../plan.ts';
import { UsageError } from '../usage-error.ts';
import { json } from '../table.ts';

/** A recording longer than this would be larger than a WAV file may be. */
const LONGEST_SOUND = 3600;

/**
 * Writes what the pins of a plan do from the start on into a file: VCD, CSV, or one signal as sound.
 * @throws UsageError
 */
export async function traceCommand(
  file: string,
  options: { seconds: number; out: string; signal?: string },
): Promise<string> {
  const { plan, part } = await loadPlan(file);
  const { seconds, out } = options;
  const traced = tracedLanes(plan, part, seconds);
  if (!traced.ok) throw new UsageError(`${file}: ${traced.fault.sentence}`);
  const all = traced.value;
  const lanes = options.signal === undefined ? all : all.filter(({ signal }) => signal === options.signal);
  if (lanes.length === 0) {
    const ids = all.map(({ signal }) => signal).join(', ');
    throw new UsageError(
      `${file}: ${options.signal ?? 'no signal'} has no waveform; ${ids || 'none'} have one.`,
    );
  }
  const ending = /\.(vcd|csv|wav)$/i.exec(out)?.[1]?.toLowerCase();
  if (!ending) throw new UsageError(`${out}: the name of the file must end in .vcd, .csv or .wav.`);
  if (ending === 'wav') {
    const [first, second] = lanes;
    if (second || !first) throw new UsageError('A recording holds one signal; name it with --signal.');
    if (seconds > LONGEST_SOUND) throw new UsageError(`A recording is at most ${LONGEST_SOUND} s long.`);
    await writeWhole(out, writeWav(first, seconds));
  } else await writeWhole(out, ending === 'vcd' ? writeVcd(lanes, seconds) : writeCsv(lanes, seconds));
  return json({ file: out, seconds, signals: lanes.map(({ signal }) => signal) });
}
