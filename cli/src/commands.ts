/** What the commands do; loaded when a command runs, so that `hz --help` need not wait for the core. */
export { assignCommand, compareCommand } from './assign.ts';
export { checkCommand } from './check.ts';
export { codeCommand } from './code.ts';
export { decodeCommand } from './decode.ts';
export { fitCommand } from './fit.ts';
export { interruptsCommand } from './interrupts.ts';
export { lengthsCommand } from './lengths.ts';
export { loadCommand } from './load.ts';
export { partsCommand } from './parts.ts';
export { sayCommand } from './say.ts';
export { shareTickCommand } from './share-tick.ts';
export { traceCommand } from './trace.ts';
