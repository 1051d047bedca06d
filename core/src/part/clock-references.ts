import {
  checkCondition,
  checkDivision,
  checkKnown,
  checkPlain,
  checkRange,
  checkWrites,
  type Look,
} from './part-checks.ts';
import type { BringUpStep, ClockChoice, Part } from './types.ts';

function checkStarts(look: Look, path: string, { start = {} }: ClockChoice): void {
  for (const [id, steps] of Object.entries(start)) {
    for (const step of steps) {
      if ('set' in step) checkPlain(look, `${path}.${id}`, step.set);
      else if ('until' in step) checkCondition(look, `${path}.${id}`, step.until);
    }
  }
}

/** The clock path: each node takes clocks before it. Gives the ids of all nodes. */
export function checkClocks(look: Look, part: Part): Set<string> {
  const known = new Set<string>();
  part.clocks.forEach((node, at) => {
    const path = `clocks[${at}]`;
    if (node.kind === 'choice')
      node.from.forEach((from) => checkKnown(look, `${path}.from`, 'clock before this one', from, known));
    else if (node.kind !== 'source')
      checkKnown(look, `${path}.from`, 'clock before this one', node.from, known);
    if ('limit' in node && node.limit) checkRange(look, `${path}.limit`, node.limit);
    if (node.kind === 'source' && typeof node.hz !== 'number')
      checkRange(look, `${path}.hz`, { min: node.hz[0], max: node.hz[1] });
    const notAbove = 'limit' in node ? node.limit?.notAbove : undefined;
    if (notAbove !== undefined)
      checkKnown(look, `${path}.limit.notAbove`, 'clock before this one', notAbove, known);
    if (node.kind === 'divider' || node.kind === 'multiplier') {
      const options = node.by.kind === 'list' ? node.by.options.map((one) => one.writes) : [node.by.writes];
      options.forEach((writes) => checkWrites(look, `${path}.by`, writes));
      checkDivision(look, `${path}.by`, node.by);
      if (node.unlock) checkPlain(look, `${path}.unlock`, node.unlock);
    }
    if (node.kind === 'choice') checkStarts(look, `${path}.start`, node);
    known.add(node.id);
  });
  return known;
}

function checkBringUpStep(look: Look, path: string, step: BringUpStep, factors: ReadonlySet<string>): void {
  if ('until' in step) return checkCondition(look, path, step.until);
  if ('waitUs' in step) return;
  const { by, set = {} } = step;
  for (const id of [...(step.factors ?? []), ...(by === undefined ? [] : [by])])
    checkKnown(look, path, 'divider or multiplier', id, factors);
  if (by === undefined) checkPlain(look, path, set);
  else checkWrites(look, path, set);
}

/** The steps that bring the clocks up name nodes, registers and fields that there are. */
export function checkBringUp(look: Look, { bringUp = [], clocks }: Part, known: ReadonlySet<string>): void {
  if (typeof bringUp === 'string') return;
  const factors = new Set(
    clocks.flatMap(({ kind, id }) => (kind === 'divider' || kind === 'multiplier' ? id : [])),
  );
  bringUp.forEach(({ when = {}, steps }, at) => {
    const path = `bringUp[${at}]`;
    const { uses, takes = {}, at: range } = when;
    const nodes = [
      ...(uses === undefined ? [] : [uses]),
      ...Object.entries(takes).flat(),
      ...(range ? [range.node] : []),
    ];
    nodes.forEach((id) => checkKnown(look, `${path}.when`, 'clock', id, known));
    steps.forEach((step, index) => checkBringUpStep(look, `${path}.steps[${index}]`, step, factors));
  });
}
