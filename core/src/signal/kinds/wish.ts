import type { Sequence } from '../sequence.ts';
import type { Facts } from '../wish/facts.ts';

/** What a wish comes to: a target, perhaps with a sequence, or what is missing for one, as a question. */
export type Wished<T> = { target: T; sequence?: Sequence } | { asks: string };

/** How wishes in plain words are understood. */
export type Wish<T> = {
  /** Of kinds that words tell equally the one with the lower rank is meant. */
  rank: number;
  /** Verbs that tell this kind ("blinks"), and nouns that do ("servo"). */
  says?: readonly string[];
  is?: readonly string[];
  /** Things that usually are of this kind ("lamp"), and words that suggest it; what tells another kind is stronger. */
  things?: readonly string[];
  hints?: readonly string[];
  /** Whether quantities alone suggest it, where no word does. */
  suits?: (facts: Facts) => boolean;
  /** Kinds that are meant after all, in spite of a thing; several are offered as a choice. */
  meant?: (facts: Facts) => readonly string[] | undefined;
  /** The target that is wished for. */
  read?: (facts: Facts) => Wished<T>;
};
