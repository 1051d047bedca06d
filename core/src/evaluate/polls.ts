import { pollingResult, type Polled, type PollingResult } from '../machine/polling.ts';
import type { Plan } from '../plan/plan.ts';
import type { Poll } from '../plan/cpu-load.ts';
import { printPpm, printSeconds } from '../quantity/print.ts';

/** Time of a count where a plan does not say it, in s. */
const USUAL_COUNT_S = 0.001;

/** Something the main loop polls, what comes of it, and the same in a sentence. */
export type PollRow = Poll & { result: PollingResult; sentence: string };

/** A round of the main loop: alone, and with the share that interrupts leave it. Times in s. */
export type Round = { aloneS: number; meanS: number };

const DAY_S = 86_400;

function wrapText(seconds: number): string {
  return seconds >= DAY_S ? `${(seconds / DAY_S).toFixed(1)} days` : printSeconds(seconds, 5);
}

/** What goes wrong, and what to do about it; or that nothing does. */
function faultText({ fault, wrapS, lastsS }: PollingResult): string {
  const when = wrapText(wrapS);
  switch (fault) {
    case undefined:
      return `It stays right when the count wraps after ${when}.`;
    case 'never':
      return `Its interval does not fit into the count, which wraps after ${when}.`;
    case 'half':
      return `Its interval is more than half of the ${when} after which the count wraps: a signed difference takes it for over. Compare now − last with the interval.`;
    case 'behind':
      return `A round takes longer than the interval: it falls behind by ${printSeconds(lastsS, 4)} with each. Count the next time from now, or do it as often as it is due.`;
    case 'missed':
      return `A round can step over the counts at which it is due; then it waits for another ${wrapText(lastsS)}. Use a count of more bits, and compare the difference of the counts.`;
    case 'burst':
      return `Around the wrap after ${when} it is done in every round for up to ${printSeconds(lastsS, 3)}: compare the difference of the counts.`;
  }
}

function sentenceOf(result: PollingResult): string {
  const { fault, worstLateS, driftPpm } = result;
  if (fault === 'never' || fault === 'half' || fault === 'behind') return faultText(result);
  const drift =
    driftPpm > 0.5
      ? ` and the interval is ${printPpm(driftPpm)} too long, since the next time counts from now`
      : '';
  return `Seen less than ${printSeconds(worstLateS, 4)} late${drift}. ${faultText(result)}`;
}

/** What comes of everything that the main loop of a plan polls, with rounds of that length. */
export function pollRows({ cpu }: Pick<Plan, 'cpu'>, roundS: number): PollRow[] {
  return (cpu?.mainLoop?.polls ?? []).map((poll) => {
    const countS = poll.countS ?? USUAL_COUNT_S;
    const polled: Polled = {
      countS,
      bits: poll.bits ?? 32,
      interval: Math.max(1, Math.round(poll.everyS / countS)),
      comparison: poll.comparison ?? 'unsigned',
      from: poll.from ?? 'due',
    };
    const result = pollingResult(polled, roundS);
    return { ...poll, result, sentence: sentenceOf(result) };
  });
}
