/**
 * Filters, base resistors and motors of random cases against a circuit simulator (ngspice, from Debian): what the product says beside
 * what the circuit does. `npm run circuits`; prints a table and ends with 1 where a figure is off by more than its model allows.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { filter } from '../core/src/load/filter.ts';
import { windingAt } from '../core/src/load/motor.ts';
import { rippleShare } from '../core/src/load/exponential.ts';
import { baseDrive } from '../core/src/load/switch.ts';

/** A generator of even numbers from 0 to 1 that gives the same ones each time (xorshift). */
function evenFrom(seed) {
  let state = seed;
  return () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 2 ** 32;
  };
}
const even = evenFrom(20_612);
const between = (low, high) => low * (high / low) ** even();
const oneOf = (list) => list[Math.floor(even() * list.length)];

/** Runs a circuit and gives the measured values by name. */
function simulated(lines, measures) {
  const directory = mkdtempSync(join(tmpdir(), 'hz-circuit-'));
  try {
    const commands = measures.map((measure) => `meas ${measure}`);
    const text = ['a circuit', ...lines, '.control', 'run', ...commands, 'quit', '.endc', '.end'].join('\n');
    writeFileSync(join(directory, 'circuit.cir'), `${text}\n`);
    const out = execFileSync('ngspice', ['-b', join(directory, 'circuit.cir')], {
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    return Object.fromEntries(
      [...out.matchAll(/^(\w+)\s+=\s+([-+0-9.eE]+)/gm)].map(([, name, value]) => [name, Number(value)]),
    );
  } finally {
    rmSync(directory, { recursive: true });
  }
}

/** A pulse source of a pin, with its edges so steep that they do not count. */
function pulse(node, volts, hz, duty) {
  const period = 1 / hz;
  const edge = period / 1e5;
  return `Vpin ${node} 0 PULSE(0 ${volts} 0 ${edge} ${edge} ${duty * period - edge} ${period})`;
}

const rows = [];
const add = (what, figure, said, seen, allowed, note) => {
  const off = Math.abs(said - seen) / Math.max(Math.abs(seen), 1e-12);
  rows.push({ what, figure, said, seen, off, within: off <= allowed, note });
};

function filterCase() {
  const supplyV = oneOf([1.8, 3.3, 5]);
  const ohm = between(1000, 100_000);
  const farad = between(1e-8, 1e-5);
  const tau = ohm * farad;
  const frequencyHz = between(0.5, 40) / tau;
  const duty = 0.05 + 0.9 * even();
  const loadOhm = even() < 0.5 ? undefined : ohm * between(2, 50);
  const load = { supplyV, ohm, farad, ...(loadOhm === undefined ? {} : { loadOhm }) };
  const { picture } = filter.report(load, { frequencyHz, duty, stepS: 1e-6, steps: 1000, pinA: 0.02 });
  const period = 1 / frequencyHz;
  // Whole periods, so that the window holds as many.
  const settle = Math.ceil((12 * tau) / period) * period;
  const until = settle + 10 * period;
  const seen = simulated(
    [
      pulse('src', supplyV, frequencyHz, duty),
      'Rpin src pin 30',
      `R1 pin out ${ohm}`,
      `C1 out 0 ${farad} IC=${picture.volts}`,
      ...(loadOhm === undefined ? [] : [`RL out 0 ${loadOhm}`]),
      `.tran ${period / 400} ${until} ${settle} ${period / 400} UIC`,
    ],
    ['tran mean AVG v(out)', 'tran rip PP v(out)'],
  );
  const text = `${supplyV} V, ${ohm.toFixed(0)} Ω, ${(farad * 1e6).toFixed(3)} µF, ${frequencyHz.toFixed(1)} Hz, ${(100 * duty).toFixed(0)} %`;
  add(text, 'mean V', picture.volts, seen.mean, 0.005 + 30 / ohm);
  add(text, 'ripple V', picture.ripple, seen.rip, 0.01 + 30 / ohm);
}

function motorCase() {
  const supplyV = oneOf([3.3, 5, 12, 24]);
  const ohm = between(0.5, 40);
  const henry = between(1e-4, 1e-2);
  const frequencyHz = (ohm / henry) * between(0.1, 20);
  const duty = 0.1 + 0.8 * even();
  const load = { supplyV, ohm, henry, diodeV: 0.7 };
  const { meanV, ripple } = windingAt(load, frequencyHz, duty);
  const period = 1 / frequencyHz;
  const settle = Math.ceil((12 * henry) / ohm / period) * period;
  const until = settle + 10 * period;
  const seen = simulated(
    [
      pulse('gate', 1, frequencyHz, duty),
      `Vs sup 0 ${supplyV}`,
      'S1 sup top gate 0 sw',
      '.model sw SW(Ron=1m Roff=10meg Vt=0.5 Vh=0.01)',
      // A diode whose drop is 0.7 V at the mean current of this case, to a few hundredths over a decade.
      `D1 0 top d`,
      `.model d D(IS=${(Math.max(meanV, 0.05) / ohm) * Math.exp(-0.7 / 0.02585)} RS=1m)`,
      `R1 top mid ${ohm}`,
      `L1 mid 0 ${henry} IC=${meanV / ohm}`,
      `.tran ${period / 1000} ${until} ${settle} ${period / 1000} UIC`,
    ],
    ['tran mean AVG i(L1)', 'tran rip PP i(L1)'],
  );
  const text = `${supplyV} V, ${ohm.toFixed(2)} Ω, ${(henry * 1e3).toFixed(2)} mH, ${frequencyHz.toFixed(0)} Hz, ${(100 * duty).toFixed(0)} %`;
  const plain = (duty * supplyV) / ohm;
  const without = Math.abs(plain - seen.mean) / seen.mean;
  add(text, 'mean A', meanV / ohm, seen.mean, 0.04, `without the diode ${(100 * without).toFixed(1)} % off`);
  const bare = (supplyV / ohm) * rippleShare(duty, period, henry / ohm);
  add(
    text,
    'ripple A',
    ripple,
    seen.rip,
    0.04,
    `without ${(100 * Math.abs(bare / seen.rip - 1)).toFixed(1)} %`,
  );
}

function baseCase() {
  const pinV = oneOf([1.8, 3.3, 5]);
  const pinA = oneOf([0.004, 0.012, 0.02, 0.04]);
  const amps = between(0.005, 9 * pinA);
  const base = baseDrive(pinV, amps, pinA);
  if (!base) return;
  const supplyV = oneOf([5, 12]);
  const seen = simulated(
    [
      `Vpin pin 0 ${pinV}`,
      `Rb pin b ${base.ohm}`,
      'Q1 c b 0 npn',
      '.model npn NPN(IS=2e-14 BF=180 RB=10 RC=0.4 RE=0.1)',
      `Vs sup 0 ${supplyV}`,
      `RL sup c ${supplyV / amps}`,
      '.tran 1u 10u',
    ],
    ['tran pin AVG i(Vpin)', 'tran sat AVG v(c)'],
  );
  const text = `${pinV} V, ${(1000 * amps).toFixed(1)} mA by ${base.ohm} Ω, pin of ${1000 * pinA} mA`;
  add(text, 'base A', base.amps, -seen.pin, 0.15);
  rows.push({
    what: text,
    figure: 'pin A',
    said: pinA,
    seen: -seen.pin,
    off: 0,
    within: -seen.pin <= pinA && seen.sat < 0.3,
    note: `${(1000 * seen.sat).toFixed(0)} mV from collector to emitter`,
  });
}

const CASES = 40;
for (let at = 0; at < CASES; at += 1) [filterCase, motorCase, baseCase][at % 3]();
const short = (value) => value.toPrecision(4);
console.log('| case | figure | said | circuit | off | |');
console.log('| --- | --- | --- | --- | --- | --- |');
for (const { what, figure, said, seen, off, within, note } of rows)
  console.log(
    `| ${what} | ${figure} | ${short(said)} | ${short(seen)} | ${(100 * off).toFixed(2)} % | ${within ? '' : 'too far; '}${note ?? ''} |`,
  );
const wrong = rows.filter(({ within }) => !within).length;
console.log(`\n${CASES} cases, ${rows.length} figures, ${wrong} further off than they may be.`);
process.exitCode = wrong === 0 ? 0 : 1;
