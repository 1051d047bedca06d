/** Rows as a table in plain text: a header, columns as wide as their widest cell, numbers to the right. */
export function table(header: readonly string[], rows: readonly (readonly (string | number)[])[]): string {
  const all = [header, ...rows].map((row) => row.map(String));
  const widths = header.map((_, at) => Math.max(...all.map((row) => row[at]?.length ?? 0)));
  const numeric = header.map((_, at) => rows.length > 0 && rows.every((row) => typeof row[at] === 'number'));
  const line = (row: readonly string[]): string =>
    row
      .map((cell, at) => (numeric[at] ? cell.padStart(widths[at] ?? 0) : cell.padEnd(widths[at] ?? 0)))
      .join('  ')
      .trimEnd();
  return all.map(line).join('\n');
}

/** A value as JSON for people and programs alike. */
export function json(value: unknown): string {
  return JSON.stringify(value, null, 2);
}
