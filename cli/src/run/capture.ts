import { type Capture, CaptureError, type Plan, readCapture } from '@herzschlag/core';
import { fileError, piecesOf } from '../files.ts';
import { UsageError } from '../usage-error.ts';

/** Reads a capture file. @throws UsageError with the file, the place and a sentence. */
export async function loadCapture(file: string): Promise<Capture> {
  try {
    const capture = await readCapture(file, piecesOf(file));
    if (!capture) throw new UsageError(`${file}: reading was stopped.`);
    return capture;
  } catch (error) {
    if (error instanceof UsageError) throw error;
    if (error instanceof CaptureError) throw new UsageError(`${file}: ${error.message}`);
    throw fileError(file, error);
  }
}

function known(what: string, name: string, names: readonly string[]): void {
  if (names.includes(name)) return;
  const some = names.slice(0, 20).join(', ') || 'none';
  throw new UsageError(`--as: there is no ${what} “${name}”; there are ${some}.`);
}

/**
 * Which wire is which signal, from WIRE=SIGNAL; WIRE= leaves a wire out. @throws UsageError for a wire that the capture, or
 * a signal that the plan, does not have.
 */
export function wireMap(said: readonly string[], capture: Capture, plan: Plan): Record<string, string> {
  return Object.fromEntries(
    said.map((one) => {
      const at = one.lastIndexOf('=');
      if (at < 1) throw new UsageError(`“${one}” is not WIRE=SIGNAL.`);
      const [wire, signal] = [one.slice(0, at), one.slice(at + 1)];
      known(
        'wire',
        wire,
        capture.wires.map(({ name }) => name),
      );
      if (signal !== '')
        known(
          'signal',
          signal,
          plan.signals.map(({ id }) => id),
        );
      return [wire, signal];
    }),
  );
}
