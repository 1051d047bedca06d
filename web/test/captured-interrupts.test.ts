import { type Plan, wireSource } from '@herzschlag/core';
import { risingEdges, withInterruptsAt } from '../src/features/trace/captured-interrupts.ts';

const wire = {
  name: 'rx',
  times: Float64Array.from([0, 1000, 1560, 2120, 2680]),
  levels: Uint8Array.from([0, 1, 0, 1, 0]),
};
const capture = { tickHz: 1e6, from: 0, to: 4000, wires: [wire], notes: [] };

describe('interrupts at the edges of a capture', () => {
  it('come at the rising edges after the start of the plan', () => {
    expect(risingEdges(wireSource(wire, capture))).toEqual([0.001, 0.00212]);
    // The plan's start lies 1.2 ms into the capture: the first edge was before it.
    expect(risingEdges(wireSource(wire, capture, 0.0012)).map((at) => Number(at.toFixed(9)))).toEqual([
      0.00092,
    ]);
  });

  it('become a task of the plan with an id of its own', () => {
    const plan = { cpu: { tasks: [{ id: 'task-2' }] } } as unknown as Plan;
    const { tasks = [] } = withInterruptsAt(plan, 'rx', [0.001]).cpu ?? {};
    expect(tasks[1]).toEqual({
      id: 'task-3',
      name: 'Edges of rx',
      arrives: { timesS: [0.001] },
      cycles: 100,
    });
  });
});
