import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** How much faster than the plan the bench's clock is. */
const FAST = 1.0022;

/**
 * A capture of the demo as a bench might see it, as a VCD file: its clock 0.22 % fast, one count too many in the frost
 * alarm's run, and in the grow light's lane one glitch of 2 microseconds at about 4 s.
 */
export function benchCapture(): string {
  const directory = mkdtempSync(join(tmpdir(), 'bench-'));
  const plan = JSON.parse(readFileSync('examples/greenhouse.plan.json', 'utf8')) as {
    signals: { id: string; setting: { top: number } }[];
  };
  const alarm = plan.signals.find(({ id }) => id === 'frost-alarm');
  if (alarm) alarm.setting.top += 1;
  const wrong = join(directory, 'wrong.plan.json');
  const raw = join(directory, 'raw.vcd');
  writeFileSync(wrong, JSON.stringify(plan));
  execFileSync(process.execPath, ['cli/bin/hz.mjs', 'trace', wrong, '--seconds', '9', '--out', raw]);
  const file = join(directory, 'bench.vcd');
  const text = readFileSync(raw, 'utf8').replace(
    /^#(\d+)$/gm,
    (_, time: string) => `#${Math.round(Number(time) / FAST)}`,
  );
  writeFileSync(file, withGlitch(text));
  return file;
}

/** A short pulse in the last wire, in the middle of a time between two changes after 4 s of 100 ps each. */
function withGlitch(text: string): string {
  const lines = text.split('\n');
  const at = lines.findIndex((line) => line.startsWith('#') && Number(line.slice(1)) > 4e10);
  const level =
    lines
      .slice(0, at)
      .reverse()
      .find((line) => /^[01]\$$/.test(line))
      ?.charAt(0) ?? '0';
  const time = Number((lines[at] ?? '#0').slice(1)) - 60_000;
  const other = level === '0' ? '1' : '0';
  lines.splice(at, 0, `#${time}`, `${other}$`, `#${time + 20_000}`, `${level}$`);
  return lines.join('\n');
}
