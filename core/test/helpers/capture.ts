import type { Capture } from '../../src/wave/capture.ts';
import type { Reader } from '../../src/io/vcd-read.ts';
import { latin1Bytes } from '../../src/io/latin1.ts';

/** Reads a whole file, in pieces of a length. */
export function readWhole(reader: Reader, file: string | Uint8Array, piece = 4096): Capture {
  const bytes = typeof file === 'string' ? latin1Bytes(file) : file;
  for (let at = 0; at < bytes.length; at += piece) reader.push(bytes.subarray(at, at + piece));
  return reader.end();
}

/** A wire's changes as text: "0:0 5:1 9:x". */
export function wireText(capture: Capture, name: string): string {
  const wire = capture.wires.find((one) => one.name === name);
  if (!wire) return `no ${name} in ${capture.wires.map((one) => one.name).join(', ')}`;
  return [...wire.times].map((time, at) => `${time}:${'01xz'.charAt(wire.levels[at] ?? 0)}`).join(' ');
}
