/** The maximum number of characters in a plan file or a part file. */
export const FILE_LIMIT = 5_000_000;
