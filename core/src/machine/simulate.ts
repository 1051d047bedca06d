import { NO_FIRMWARE, type Firmware } from './firmware.ts';
import type { CpuModel } from './model.ts';
import { processor } from './processor.ts';
import { recorder, type CpuRun } from './record.ts';

/** How long and from which seed to simulate. */
export type SimulationOptions = {
  /** Cycles of the processor. */
  cycles: number;
  seed: number;
  /** It ends early after so many events and masked sections. */
  most?: number;
  /** Asked now and then with the share that is done; gives whether to stop. */
  stops?: (done: number) => boolean;
};

/** Events between two questions whether to stop. */
const ASKED_EVERY = 8192;

/**
 * Simulates one core and its interrupts, cycle by cycle, from 0 to a number of cycles. What happens in a cycle is reported at
 * `processor`.
 */
export function simulate(
  model: CpuModel,
  { cycles, seed, most, stops }: SimulationOptions,
  firmware: Firmware = NO_FIRMWARE,
): CpuRun {
  const seen = recorder(model);
  const core = processor(model, firmware, seed, seen);
  let rounds = 0;
  for (let t = core.nextCycle(); t < cycles; t = core.nextCycle()) {
    core.runCycle(t);
    rounds += 1;
    const asked = rounds % ASKED_EVERY === 0 && stops?.(t / cycles) === true;
    if (asked || (most !== undefined && core.count() >= most)) {
      core.close(t);
      return seen.finish(t, true, core.stuck());
    }
  }
  core.close(cycles);
  return seen.finish(cycles, false, core.stuck());
}
