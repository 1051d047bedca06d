import { type CycleEdges, type EdgeSource, wireSource } from '@herzschlag/core';

/** The edges that interrupts made of a pin in a simulation, as a source; before its start and after its end nothing is known. */
export function simulatedSource({ cycles, levels }: CycleEdges, cpuHz: number, end: number): EdgeSource {
  const wire = {
    name: '',
    times: Float64Array.from([0, ...cycles]),
    levels: Uint8Array.from([0, ...levels]),
  };
  return wireSource(wire, { tickHz: cpuHz, from: 0, to: end, wires: [wire], notes: [] });
}
