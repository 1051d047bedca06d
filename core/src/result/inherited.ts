/**
 * Names that every object has from the start ("constructor", "__proto__"). No id, register or field from outside may be
 * called so: a look-up by that name would find what was never put there.
 */
export const INHERITED: readonly string[] = Object.getOwnPropertyNames(Object.prototype);
