/** A function that makes a value when it is first called, and gives the same one from then on. */
export function lazily<T>(make: () => T): () => T {
  let made: { value: T } | undefined;
  return () => (made ??= { value: make() }).value;
}
