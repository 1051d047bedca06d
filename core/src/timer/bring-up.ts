import { exact } from '../quantity/exact.ts';
import type { ClockPath } from '../clock/path.ts';
import type { BringUpCondition, BringUpGroup, BringUpStep, Part } from '../part/types.ts';
import { fieldWrites, type FieldWrite } from './fields.ts';
import { nodesInUse } from './clock-set-up.ts';
import type { Setting } from './setting.ts';

function holds(
  { uses, takes = {}, at }: BringUpCondition,
  path: ClockPath,
  used: ReadonlySet<string>,
): boolean {
  if (uses !== undefined && !used.has(uses)) return false;
  if (Object.entries(takes).some(([node, from]) => path.taken.get(node) !== from)) return false;
  if (!at) return true;
  const hz = path.clocks.get(at.node)?.hz;
  if (!hz) return false;
  const { above, upTo } = at;
  return (
    (above === undefined || hz.compare(exact(above)) > 0) &&
    (upTo === undefined || hz.compare(exact(upTo)) <= 0)
  );
}

/** The steps that a plan's clock needs, group by group; undefined where the part has none. */
export function bringUpGroups(
  part: Part,
  path: ClockPath,
  settings: readonly Setting[],
): BringUpGroup[] | undefined {
  const { bringUp } = part;
  if (bringUp === undefined || typeof bringUp === 'string') return undefined;
  const used = nodesInUse(part, path, settings);
  return bringUp.filter(({ when = {} }) => holds(when, path, used));
}

/** The fields that a store of the bring-up writes. */
export function bringUpWrites(
  path: ClockPath,
  { factors = [], set = {}, by }: Exclude<BringUpStep, { until: string } | { waitUs: number }>,
): FieldWrite[] {
  const factor = (id: string | undefined) => path.writes.find(({ node }) => node.id === id);
  const own = factors.flatMap((id) => {
    const found = factor(id);
    return found ? fieldWrites(found.writes, { divide: found.by }) : [];
  });
  const divide = factor(by)?.by;
  return [...own, ...fieldWrites(set, divide === undefined ? {} : { divide })];
}
