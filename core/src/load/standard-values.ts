/**
 * The E series of preferred numbers of IEC 60063. E3 to E24 are listed there and differ from the rounded powers in some
 * places (27, 30, 33, 36, 39, 43, 47, 82), so they stand here as they are.
 */
export const E24 = [
  10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91,
];

/** Every second value of E24. */
export const E12 = E24.filter((_, at) => at % 2 === 0);

/** Every fourth value of E24: what capacitors are sold in. */
export const E6 = E24.filter((_, at) => at % 4 === 0);

/** The preferred values on both sides of a value above zero: equal where it is one of them. */
export function standardAround(value: number, series: readonly number[]): { below: number; above: number } {
  const decade = Math.floor(Math.log10(value)) - 1;
  const all = [-1, 0, 1].flatMap((shift) => series.map((one) => one * 10 ** (decade + shift)));
  const near = (one: number): boolean => Math.abs(one / value - 1) < 1e-9;
  const exactly = all.find(near);
  const below = exactly ?? Math.max(...all.filter((one) => one < value));
  const above = exactly ?? Math.min(...all.filter((one) => one > value));
  return { below: rounded(below), above: rounded(above) };
}

/** The nearest preferred value by ratio. */
export function nearestStandard(value: number, series: readonly number[]): number {
  const { below, above } = standardAround(value, series);
  return value / below <= above / value ? below : above;
}

/** The least preferred value that is not below a value. */
export function standardAbove(value: number, series: readonly number[]): number {
  return standardAround(value, series).above;
}

function rounded(value: number): number {
  return Number(value.toPrecision(3));
}

/**
 * A resistor of E12 and a capacitor of E6 whose corner 1 / (2 pi R C) is a frequency or the next lower one that they reach, so that they let no more
 * through. A load lies beside the resistor as the capacitor sees it, and leaves the voltage alone only where the resistor is small against it.
 */
export function cornerPair(
  cornerHz: number,
  { aroundOhm = 10_000, loadOhm = Infinity }: { aroundOhm?: number; loadOhm?: number } = {},
): { ohm: number; farad: number; hz: number } {
  const around = Math.min(aroundOhm, loadOhm / 20);
  const pairs = E6.flatMap((one) =>
    Array.from({ length: 13 }, (_, at) => {
      const farad = rounded(one * 10 ** (at - 13));
      const seen = 1 / (2 * Math.PI * cornerHz * farad);
      // R beside the load is what the capacitor sees: R = seen x load / (load - seen).
      const wanted = loadOhm === Infinity ? seen : (seen * loadOhm) / (loadOhm - seen);
      if (!(wanted > 0)) return undefined;
      const ohm = standardAbove(wanted, E12);
      const beside = loadOhm === Infinity ? ohm : (ohm * loadOhm) / (ohm + loadOhm);
      return { ohm, farad, hz: 1 / (2 * Math.PI * beside * farad) };
    }),
  ).filter((one) => one !== undefined);
  const off = ({ ohm, hz }: { ohm: number; hz: number }): number =>
    Math.abs(Math.log(hz / cornerHz)) +
    0.02 * Math.abs(Math.log(ohm / around)) +
    (ohm > loadOhm / 10 ? 10 : 0);
  const [first, ...rest] = pairs;
  if (!first) throw new Error('a series has values');
  return rest.reduce((best, one) => (off(one) < off(best) ? one : best), first);
}
