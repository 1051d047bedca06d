import { failed, succeeded, type Result } from '../result/result.ts';
import { parseQuantity } from '../quantity/parse.ts';
import { printSeconds } from '../quantity/print.ts';
import { LONGEST_ENTRY, quoted, singleSpaced, TOO_LONG } from '../quantity/words.ts';
import type { Cycles, TaskArrivals } from './cpu-load.ts';

/** The most cycles that can be typed. */
const MOST_CYCLES = 1e9;

/** Reads "90" or "90 to 420" as cycles; undefined for an empty text or "estimate". Never throws. */
export function parseCycles(text: string): Result<Cycles | undefined> {
  if (text.length > LONGEST_ENTRY) return failed(TOO_LONG);
  const plain = singleSpaced(text.replace(/[\u202f\u2009]/g, '')).replace(/ ?cycles?$/i, '');
  if (plain === '' || /^estimate$/i.test(plain)) return succeeded(undefined);
  const [first = '', second, ...more] = plain.split(/ to |…|\.\.+| – /);
  const digits = (part: string): number => (/^\d{1,10}$/.test(part.trim()) ? Number(part) : NaN);
  const [min, max] = [digits(first), second === undefined ? digits(first) : digits(second)];
  if (more.length > 0 || !(min <= MOST_CYCLES) || !(max <= MOST_CYCLES)) {
    return failed(`${quoted(text)} is not a number of cycles; enter for example 90, or 90 to 420.`);
  }
  if (min > max) return failed(`The least number of cycles comes first: ${max} to ${min}.`);
  return succeeded(min === max ? min : { min, max });
}

/** Cycles as the user would type them. */
export function cyclesText(cycles: Cycles): string {
  if (typeof cycles === 'number') return String(cycles);
  return cycles.min === cycles.max ? String(cycles.min) : `${cycles.min} to ${cycles.max}`;
}

function time(text: string): Result<number> {
  const read = parseQuantity(text, 'time');
  return read.ok ? succeeded(read.value.value.valueOf()) : read;
}

/** "every 10 ms", "every 10 ms, up to 1 ms late". */
function parsePeriodic(text: string): Result<TaskArrivals> {
  const [every = '', late] = text.split(',').map((part) => part.trim());
  const everyS = time(every);
  if (!everyS.ok) return everyS;
  if (late === undefined) return succeeded({ everyS: everyS.value });
  const jitterS = time(late.replace(/^up to /i, '').replace(/ late$/i, ''));
  return jitterS.ok ? succeeded({ everyS: everyS.value, jitterS: jitterS.value }) : jitterS;
}

/** "at least 520 µs apart", "at least 520 µs apart, up to 10 ms more". */
function parseSporadic(text: string): Result<TaskArrivals> {
  const [least = '', more] = text.split(',').map((part) => part.trim());
  const leastS = time(least.replace(/ apart$/i, ''));
  if (!leastS.ok) return leastS;
  if (more === undefined) return succeeded({ leastS: leastS.value });
  const spreadS = time(more.replace(/^up to /i, '').replace(/ more$/i, ''));
  return spreadS.ok ? succeeded({ leastS: leastS.value, spreadS: spreadS.value }) : spreadS;
}

/** "at 1 ms, 2 ms, 2.5 ms". */
function parseTimes(text: string): Result<TaskArrivals> {
  const timesS: number[] = [];
  for (const part of text.split(',')) {
    const read = time(part.trim());
    if (!read.ok) return read;
    timesS.push(read.value);
  }
  return succeeded({ timesS });
}

/**
 * Reads when the events of a task come: "every 10 ms", "every 10 ms, up to 1 ms late", "at least 520 µs apart, up to 10 ms
 * more", "at 1 ms, 2 ms". Never throws.
 */
export function parseArrivals(text: string): Result<TaskArrivals> {
  if (text.length > LONGEST_ENTRY) return failed(TOO_LONG);
  const plain = singleSpaced(text);
  if (/^every /i.test(plain)) return parsePeriodic(plain.slice('every '.length));
  if (/^at least /i.test(plain)) return parseSporadic(plain.slice('at least '.length));
  if (/^at /i.test(plain)) return parseTimes(plain.slice('at '.length));
  return failed(
    `${quoted(text)} does not say when events come; enter for example every 10 ms, or at least 500 µs apart.`,
  );
}

/** When the events of a task come, as the user would type it. */
export function arrivalsText(arrives: TaskArrivals): string {
  const print = (seconds: number): string => printSeconds(seconds, 12);
  if ('timesS' in arrives) return `at ${arrives.timesS.map(print).join(', ')}`;
  if ('leastS' in arrives) {
    const more = arrives.spreadS ? `, up to ${print(arrives.spreadS)} more` : '';
    return `at least ${print(arrives.leastS)} apart${more}`;
  }
  const late = arrives.jitterS ? `, up to ${print(arrives.jitterS)} late` : '';
  return `every ${print(arrives.everyS)}${late}`;
}
