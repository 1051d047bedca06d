/**
 * Peak-to-peak ripple, as a share of the supply, of a first-order store (R-C, or R-L with a free-wheeling path) that a pin
 * charges for a share d of the period T and discharges for the rest, once settled:
 * (1 - e^(-dT/tau)) (1 - e^(-(1-d)T/tau)) / (1 - e^(-T/tau)).
 */
export function rippleShare(duty: number, periodS: number, tauS: number): number {
  const high = -Math.expm1((-duty * periodS) / tauS);
  const low = -Math.expm1((-(1 - duty) * periodS) / tauS);
  return (high * low) / -Math.expm1(-periodS / tauS);
}

/** How long a first-order store takes until it is within a share of a step, in s: tau ln(1 / share). */
export function settlingS(tauS: number, share: number): number {
  return tauS * Math.log(1 / share);
}
