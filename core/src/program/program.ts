import type { Part } from '../part/types.ts';
import { handlersOf, statesOf } from './handlers.ts';
import { followingOf, sequenceRoutines, sequenceStart, sequenceVariables, tableOf } from './sequence.ts';
import type { ProgramSignal } from './signal.ts';
import type { Handler, Routine, State, Step, Table } from './step.ts';

/** What runs once the timers do: handlers, what they call and keep, and how the sequences begin. */
export type Program = {
  handlers: readonly Handler[];
  routines: readonly Routine[];
  tables: readonly Table[];
  /** With what each begins at every start. */
  variables: readonly State[];
  begin: readonly Step[];
};

/** The program of some signals on a part. */
export function programOf(part: Part, signals: readonly ProgramSignal[]): Program {
  const following = followingOf(signals);
  return {
    handlers: handlersOf(part, signals),
    routines: following.flatMap((one) => sequenceRoutines(part, one)),
    tables: following.map(tableOf),
    variables: [...statesOf(part, signals), ...following.flatMap(sequenceVariables)],
    begin: sequenceStart(signals),
  };
}
