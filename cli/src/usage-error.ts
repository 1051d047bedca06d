/** An error that the user can correct: one sentence, exit code 2. */
export class UsageError extends Error {}
