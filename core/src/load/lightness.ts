/** Where the cube root of CIE L* gives way to a straight line: (6/29)^3 and (29/3)^3. */
const KNEE = 216 / 24389;
const SLOPE = 24389 / 27;

/**
 * Perceived lightness L* (0 to 100) of a share of the full light: 116 Y^(1/3) - 16 above (6/29)^3, else (29/3)^3 Y. CIE 15.
 */
export function lightnessOf(share: number): number {
  return share > KNEE ? 116 * Math.cbrt(share) - 16 : SLOPE * share;
}

/** The share of the full light that has a lightness L*: the inverse of `lightnessOf`. */
export function shareOfLightness(lightness: number): number {
  return lightness > 8 ? ((lightness + 16) / 116) ** 3 : lightness / SLOPE;
}
