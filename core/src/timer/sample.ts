/** The first of a list for each key: one of each class where a list has thousands that differ in nothing that matters. */
export function firstOfEach<T>(list: readonly T[], key: (item: T) => string): T[] {
  const seen = new Set<string>();
  return list.filter((item) => {
    const own = key(item);
    if (seen.has(own)) return false;
    seen.add(own);
    return true;
  });
}
