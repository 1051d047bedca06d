import { clockPath, ClockError, type ClockPath } from '../clock/path.ts';
import { divisionOf } from '../part/division.ts';
import type { ClockFactor, Part, Prescaler } from '../part/types.ts';
import { amountOf } from '../quantity/exact.ts';
import { printHz } from '../quantity/print.ts';
import { decoded, mismatches } from './fields.ts';
import type { Registers } from './statements.ts';

/** What a divider of the clock path divides by, as the registers say it; undefined where the program does not write it. */
function dividedBy(part: Part, by: Prescaler, { values }: Registers): number | undefined {
  const options = by.kind === 'list' ? by.options : [];
  const writes = by.kind === 'list' ? options.map((one) => one.writes) : [by.writes];
  const places = new Set(writes.flatMap((one) => Object.keys(one).map((key) => key.split('.')[0] ?? '')));
  if (![...places].some((name) => values.has(name))) return undefined;
  if (by.kind === 'list')
    return options.find((one) => mismatches(part, values, one.writes).length === 0)?.divide;
  const divide = decoded(part, values, by.writes, 'divide');
  return divide !== undefined && divisionOf(by, divide) ? divide : undefined;
}

/**
 * The clock path with the dividers that the program itself sets, and what it sets them to, a sentence each. Multipliers and
 * choices stay those of the plan: a PLL has more to it than one register.
 */
export function ownClock(
  part: Part,
  path: ClockPath,
  registers: Registers,
): { path: ClockPath; set: string[] } {
  const dividers = path.writes.filter(({ node }) => node.kind === 'divider');
  const changed = dividers.flatMap(({ node, by }): { node: ClockFactor; by: number }[] => {
    const own = dividedBy(part, node.by, registers);
    return own === undefined || own === by ? [] : [{ node, by: own }];
  });
  const source = path.clocks.get(path.source.id);
  if (changed.length === 0 || !source) return { path, set: [] };
  const chosen = part.clocks.flatMap((node) =>
    node.kind === 'choice' && node.standard !== undefined
      ? [[node.id, path.taken.get(node.id) ?? node.standard]]
      : [],
  );
  const factors = path.writes.map(({ node, by }) => [node.id, by]);
  const settings = Object.fromEntries([
    ...chosen,
    ...factors,
    ...changed.map(({ node, by }) => [node.id, by]),
  ]) as Record<string, number | string>;
  try {
    const own = clockPath(part, {
      source: path.source.id,
      sourceHz: amountOf(source.hz),
      tolerancePpm: source.tolerancePpm,
      settings,
    });
    const set = changed.map(({ node, by }) => {
      const hz = own.clocks.get(node.id)?.hz;
      const result = hz ? `: ${printHz(hz.valueOf())}` : '';
      return `The ${node.name} is set to ${by}${result}.`;
    });
    return { path: own, set };
  } catch (error) {
    if (!(error instanceof ClockError)) throw error;
    return { path, set: [`The clock that the program sets is not possible: ${error.message}`] };
  }
}
