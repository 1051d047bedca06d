import type { ProgramSignal } from '../program/signal.ts';
import { interruptsInCode } from '../program/handlers.ts';
import { indented } from './steps.ts';
import { registerName } from '../part/register-names.ts';
import type { Interrupt, Part } from '../part/types.ts';

/** An interrupt whose line start-up code decides, and where the number of the line goes. */
export type InterruptRoute = { interrupt: Interrupt; place: string };

/** The interrupts of some signals whose lines start-up code decides, each once; undefined where there is none. */
export function routeOf(part: Part, signals: readonly ProgramSignal[]): InterruptRoute[] | undefined {
  const all = signals
    .flatMap((signal) => interruptsInCode(part, signal))
    .flatMap((interrupt) => (interrupt.route === undefined ? [] : [{ interrupt, place: interrupt.route }]));
  const once = [...new Map(all.map((route) => [route.place, route])).values()];
  return once.length > 0 ? once : undefined;
}

function headOf(stem: string, routes: readonly InterruptRoute[]): string {
  const lines = routes.map(({ interrupt }) => `uint32_t ${interrupt.vector}_line`);
  return `void ${stem}_route(${lines.join(', ')})`;
}

/** The function that leads interrupts to lines of the processor. */
export function routeLines(part: Part, stem: string, routes: readonly InterruptRoute[]): string[] {
  const stores = routes.map(
    ({ interrupt, place }) => `${registerName(part, place)} = ${interrupt.vector}_line;`,
  );
  return [headOf(stem, routes), '{', ...indented(stores), '}', ''];
}

/** What the header says of it. */
export function routeDeclaration(stem: string, routes: readonly InterruptRoute[]): string[] {
  return [
    '/*',
    ' * Leads each interrupt to a line of the processor, by its number; call it once, before start. Enabling the lines, and calling the',
    ' * handlers from their vectors, is left to the system software.',
    ' */',
    `${headOf(stem, routes)};`,
  ];
}
