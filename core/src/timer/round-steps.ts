/** Round numbers of steps people ask for: powers of two and 1, 2, 2.5, 4, 5, 8 x 10^n, within [min, max]. */
export function roundSteps(min: number, max: number): number[] {
  const steps = new Set<number>();
  for (let power = 1; power <= max; power *= 2) steps.add(power);
  for (let decade = 1; decade <= max; decade *= 10) {
    for (const digit of [1, 2, 2.5, 4, 5, 8]) if (Number.isInteger(digit * decade)) steps.add(digit * decade);
  }
  return [...steps].filter((step) => step >= min && step <= max).sort((one, other) => one - other);
}
