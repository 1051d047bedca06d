import { failed, succeeded, type Result } from '../result/result.ts';
import { allKinds, findKind, type Kind } from './kinds/index.ts';
import { wishFacts, type WishFacts } from './kinds/wish-facts.ts';

import type { KindAndTarget, Signal } from './signal.ts';
import { signalFault } from './target-schema.ts';

/** A wish in plain words as it is understood: the signal's name, its kind and target, its pin; or what is missing. */
export type ParsedWish = Result<{ name: string; target: KindAndTarget; pin?: string }>;

/** Verbs and small words that end a name. */
const ENDS =
  /\b(on|at|is|blinks?|flash(es)?|beeps?|sounds?|rings?|hums?|sings?|buzzes|dims?|dimmed|fades?|pulses?|moves?|strobes?|ticks?|measures?|measured|reads?|every|from|with|within|to|in)\b|\d/i;

const EXAMPLES = '“buzzer beeps 2 kHz”, “lamp dims 1000 steps” or “servo 0.9..2.1 ms”';

/** The kind that words tell, else the first that the quantities suit. */
function kindFor(text: string, facts: WishFacts): Kind | undefined {
  const kinds = allKinds().sort((one, other) => one.wish.rank - other.wish.rank);
  const said = kinds.find(({ wish }) => wish.words?.test(text));
  const meant = said?.wish.meant?.(facts);
  if (meant !== undefined) return findKind(meant);
  return said ?? kinds.find(({ wish }) => wish.suits?.(facts));
}

/**
 * Reads what a new signal should do: "buzzer beeps 2 kHz", "lamp on PB0 dims 1000 steps", "servo 0.9..2.1 ms",
 * "tick every 10 ms". What is not said gets a usual value. Never throws.
 */
export function parseWish(text: string, pins: readonly string[]): ParsedWish {
  const plain = text.trim().slice(0, 200);
  const pin = pins.find((id) =>
    new RegExp(String.raw`\bon\s+${id.replace(/[^\w]/g, '.')}\b`, 'i').test(plain),
  );
  const rest = pin === undefined ? plain : plain.replace(new RegExp(String.raw`\bon\s+\S+`, 'i'), '');
  const facts = wishFacts(rest);
  const kind = kindFor(rest, facts);
  const target = kind?.wish.read?.(facts);
  if (!kind || !target) {
    return failed(`Say what a pin should do, for example ${EXAMPLES}.`);
  }
  const words = plain
    .split(ENDS)[0]
    ?.replace(/[^\p{L}\p{N} _-]/gu, ' ')
    .trim();
  const name = words ? words.charAt(0).toUpperCase() + words.slice(1, 60) : kind.name;
  const onPin = pin !== undefined && kind.on !== 'processor';
  const fault = signalFault({ id: 'wish', name, kind: kind.id, target } as Signal);
  if (fault) return failed(fault.plain ?? fault.sentence, fault.path);
  return succeeded({
    name,
    target: { kind: kind.id, target } as KindAndTarget,
    ...(onPin ? { pin } : {}),
  });
}
