import {
  type OutputSetting,
  clockPath,
  outcomeUnder,
  vcdReader,
  waveformEdgeList,
  waveformOf,
} from '@herzschlag/core';
import { stm32f401 as part } from '@herzschlag/core/parts/stm32/stm32f401.ts';
import { quantile, timings } from './table.ts';

const EDGES = 10_000_000;

function time(runs: number, work: () => unknown): number[] {
  return Array.from({ length: runs }, () => {
    const start = performance.now();
    work();
    return performance.now() - start;
  });
}

const setting: OutputSetting = {
  drive: 'pwm',
  timer: 'TIM3',
  mode: 'up',
  channel: 'CH1',
  pin: 'PA6',
  prescaler: 1,
  top: 83,
  compare: 30,
};
const lane = waveformOf(part, setting, outcomeUnder(part, clockPath(part, part.defaultClock), setting));
const generated = time(9, () => waveformEdgeList(lane, 42 * EDGES).edges.length);
const filled = time(9, () => {
  const array = new Float64Array(EDGES);
  for (let at = 0; at < EDGES; at += 1) array[at] = at * 42;
  return array.length;
});

/** Ten million changes of eight wires, a time to each two of them. */
function vcd(): Uint8Array {
  const head = Array.from(
    { length: 8 },
    (_, at) => `$var wire 1 ${String.fromCharCode(97 + at)} w${at} $end`,
  );
  const parts = [`$timescale 1 ns $end\n${head.join('\n')}\n$enddefinitions $end\n`];
  let text = '';
  for (let at = 0; at < EDGES / 2; at += 1) {
    const wire = String.fromCharCode(97 + (at % 4));
    const other = String.fromCharCode(101 + (at % 4));
    const level = (at >> 2) & 1;
    text += `#${at * 50}\n${level}${wire}\n${level}${other}\n`;
    if (text.length < 1 << 20) continue;
    parts.push(text);
    text = '';
  }
  parts.push(text);
  return new TextEncoder().encode(parts.join(''));
}

const file = vcd();
const PIECE = 1 << 20;
const read = time(5, () => {
  const reader = vcdReader();
  for (let at = 0; at < file.length; at += PIECE) reader.push(file.subarray(at, at + PIECE));
  return reader.end().wires.length;
});
const newlines = time(5, () => {
  let count = 0;
  for (let at = 0; at < file.length; at += 1) if (file[at] === 10) count += 1;
  return count;
});
const split = time(3, () => {
  const times: number[] = [];
  const values: string[] = [];
  let now = 0;
  for (const line of new TextDecoder().decode(file).split('\n')) {
    if (line.startsWith('#')) now = Number(line.slice(1));
    else if (line !== '') {
      times.push(now);
      values.push(line);
    }
  }
  return values.length;
});

console.table([
  timings('edges: ten million generated', generated),
  timings('edges: an array of the same size filled', filled),
  timings(`VCD: ten million changes, ${(file.length / 1e6).toFixed(0)} MB`, read),
  timings('VCD: newlines of the same bytes counted', newlines),
  timings('VCD: a plain reader that splits lines', split),
]);
const ratio = (one: number[], other: number[]): string =>
  (quantile(one, 0.5) / quantile(other, 0.5)).toFixed(2);
console.log(`generate / fill ${ratio(generated, filled)}`);
console.log(`VCD / newlines ${ratio(read, newlines)}, VCD / split lines ${ratio(read, split)}`);
