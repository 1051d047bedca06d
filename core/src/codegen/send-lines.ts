import { plainWrites } from '../timer/fields.ts';
import { unsignedFor } from '../program/step.ts';
import { block, indented } from './steps.ts';
import { clockOf, type ClockPath } from '../clock/path.ts';
import { channelOf, timerOf } from '../part/find.ts';
import { registerName } from '../part/register-names.ts';
import type { Interrupt, Part, Queue } from '../part/types.ts';
import { outcomeUnder } from '../timer/drives/index.ts';
import type { Sending } from '../timer/sending.ts';
import type { Setting } from '../timer/setting.ts';
import { clearFirst, flagBit, flagExpression } from './interrupt-lines.ts';
import { changes, keptTogether, unawaitedStores, waitFor } from './statement.ts';

/** Cycles of the processor in a period of a setting. */
export function sentBit(part: Part, path: ClockPath, setting: Setting): number {
  const { frequency } = outcomeUnder(part, path, setting);
  return clockOf(path, part.cpu.clock).div(frequency).valueOf();
}

/** The head of the function that sends bytes. */
function headOf(label: string): string {
  return `uint8_t ${label}_send(const uint8_t *bytes, uint16_t count)`;
}

/** What the header says of it; a bit has so many cycles of the processor. */
export function sendDeclaration(label: string, bitCycles: number, { by }: Sending): string[] {
  const how =
    'queue' in by
      ? [
          ' * Sends bytes, the highest bit first, each LED in the order of colours that the string wants: the program puts each bit into a queue, of',
          ` * which the timer takes one every ${Math.floor(bitCycles + 1e-9)} cycles of the processor. Interrupts wait until the last is in it. Returns 0 where it was empty in`,
          ' * between, so that the string took the bytes for two frames; else 1. It returns once the queue is empty; then leave the line alone, it is low, for',
        ]
      : [
          ' * Sends bytes, the highest bit first, each LED in the order of colours that the string wants: the program hands the timer each',
          ` * bit while it makes the one before, within ${Math.floor(bitCycles + 1e-9)} cycles of the processor, so compile it with optimising. Interrupts wait until the last`,
          ' * bit. Returns 0 where the program was late, so that the string got a bit twice; else 1. Then leave the line alone, it is low, for',
        ];
  return ['/*', ...how, ' * the reset time of the string.', ' */', `${headOf(label)};`];
}

/** What is done for each bit of the bytes, the highest first, with its compare value. */
function eachBit(type: string, { one, zero }: Sending, lines: readonly string[]): string[] {
  return block('for (; bytes != end; bytes += 1) {', [
    'uint8_t byte = *bytes;',
    ...block('for (uint8_t left = 8u; left != 0u; left = (uint8_t)(left - 1u)) {', [
      `${type} compare = (byte & 0x80u) ? ${one}u : ${zero}u;`,
      'byte = (uint8_t)(byte << 1);',
      ...lines,
    ]),
  ]);
}

/** Bits handed over one by one: each is written while the one before is made. */
function byPeriods(part: Part, type: string, sending: Sending, tick: Interrupt): string[] {
  const { setting, rest } = sending;
  const channel = channelOf(timerOf(part, setting.timer), setting.channel);
  const stores = [
    ...unawaitedStores(part, channel.running ?? channel.compare, 'compare'),
    ...(channel.commit ? changes(part, plainWrites([channel.commit])) : []),
  ];
  const passed = flagExpression(part, tick.polled || (tick.status ?? tick.flag));
  const clear = clearFirst(part, tick);
  const handOver = [
    ...stores,
    'uint8_t waited = 0u;',
    `while (!(${passed})) waited = 1u;`,
    ...clear,
    'in_time = (uint8_t)(in_time & waited);',
  ];
  return [
    ...clear,
    `while (!(${passed})) { }`,
    ...clear,
    ...eachBit(type, sending, handOver),
    ...block('{', [`${type} compare = ${rest}u;`, ...handOver]),
  ];
}

/** Bits put into a queue. The flag of a period without one counts from the second on, until which the queue has been empty. */
function byQueue(part: Part, type: string, sending: Sending, queue: Queue): string[] {
  const gap = flagExpression(part, queue.gap);
  const [name = ''] = queue.gap.split('.');
  const clearGap = `${registerName(part, name)} = ${flagBit(part, queue.gap)};`;
  return [
    'uint8_t begun = 0u;',
    ...eachBit(type, sending, [
      ...waitFor(part, queue.room),
      ...block('if (begun < 2u) {', ['begun = (uint8_t)(begun + 1u);', `if (begun == 2u) ${clearGap}`]),
      `else if (${gap}) in_time = 0u;`,
      `${registerName(part, queue.data)} = compare;`,
    ]),
  ];
}

/** The function that hands a timer the bits of bytes, one a period; the timer makes each of them to the tick. */
export function sendLines(part: Part, label: string, sending: Sending): string[] {
  const { setting, rest, one, zero, by } = sending;
  const type = unsignedFor(Math.max(rest, one, zero));
  const low = 'queue' in by ? 'an empty queue' : `${rest}`;
  return [
    `/* A bit is a period of ${timerOf(part, setting.timer).name}: its compare value is ${one} in a one and ${zero} in a zero, ${low} keeps the line low. */`,
    headOf(label),
    '{',
    ...indented([
      'const uint8_t *end = bytes + count;',
      'uint8_t in_time = 1u;',
      ...keptTogether(
        part,
        'queue' in by ? byQueue(part, type, sending, by.queue) : byPeriods(part, type, sending, by.tick),
      ),
      ...('queue' in by ? waitFor(part, by.queue.empty) : []),
      'return in_time;',
    ]),
    '}',
    '',
  ];
}
