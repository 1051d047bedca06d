/**
 * What is wrong with something from outside: where, and one sentence for a person. The path may be empty. `plain` says it
 * without the path, for a person who has the field before them.
 */
export type Fault = { path: string; sentence: string; plain?: string };

/** What came of something that can fail for reasons that the user can correct: a value, or what is wrong. */
export type Result<T> = { ok: true; value: T } | { ok: false; fault: Fault };

/** A result that succeeded. */
export function succeeded<T>(value: T): Result<T> & { ok: true } {
  return { ok: true, value };
}

/** A result that failed. */
export function failed(sentence: string, path = ''): { ok: false; fault: Fault } {
  return { ok: false, fault: { path, sentence } };
}
