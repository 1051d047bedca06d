import { clockOf, type ClockPath } from '../clock/path.ts';
import { channelOf, timerOf } from '../part/find.ts';
import type { Part } from '../part/types.ts';
import { outcomeUnder } from '../timer/drives/index.ts';
import type { Sending } from '../timer/sending.ts';
import type { Setting } from '../timer/setting.ts';
import { block, indented } from './action-lines.ts';
import { clearFirst, flagExpression } from './interrupt-lines.ts';
import { unsignedFor } from './setters.ts';
import { changes, keptTogether, plainWrites, unawaitedStores } from './statement.ts';

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
export function sendDeclaration(label: string, bitCycles: number): string[] {
  return [
    '/*',
    ' * Sends bytes, the highest bit first, each LED in the order of colours that the string wants: the program hands the timer each',
    ` * bit while it makes the one before, within ${Math.floor(bitCycles + 1e-9)} cycles of the processor, so compile it with optimising. Interrupts wait until the last`,
    ' * bit. Returns 0 where the program was late, so that the string got a bit twice; else 1. Then leave the line alone, it is low, for',
    ' * the reset time of the string.',
    ' */',
    `${headOf(label)};`,
  ];
}

/** The function that hands a timer the bits of bytes, one a period; the timer makes each of them to the tick. */
export function sendLines(part: Part, label: string, sending: Sending): string[] {
  const { tick, setting, rest, one, zero } = sending;
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
  const type = unsignedFor(Math.max(rest, one, zero));
  return [
    `/* A bit is a period of ${timerOf(part, setting.timer).name}: its compare value is ${one} in a one and ${zero} in a zero, ${rest} keeps the line low. */`,
    headOf(label),
    '{',
    ...indented([
      'const uint8_t *end = bytes + count;',
      'uint8_t in_time = 1u;',
      ...keptTogether(part, [
        ...clear,
        `while (!(${passed})) { }`,
        ...clear,
        ...block('for (; bytes != end; bytes += 1) {', [
          'uint8_t byte = *bytes;',
          ...block('for (uint8_t left = 8u; left != 0u; left = (uint8_t)(left - 1u)) {', [
            `${type} compare = (byte & 0x80u) ? ${one}u : ${zero}u;`,
            'byte = (uint8_t)(byte << 1);',
            ...handOver,
          ]),
        ]),
        ...block('{', [`${type} compare = ${rest}u;`, ...handOver]),
      ]),
      'return in_time;',
    ]),
    '}',
    '',
  ];
}
