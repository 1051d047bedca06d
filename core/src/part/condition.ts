/** A condition that a program waits for: a field that is not zero, zero, or a value. */
export type Condition = { register: string; field: string; is: 'set' | 'clear' | number };

/**
 * Reads a condition: "PLL_SYS_CS.LOCK" until the field is not zero, with an exclamation mark before it until it is zero, with
 * "=2" after it until it has that value. The shape is taken as right; the schema of parts holds it to that.
 */
export function conditionOf(text: string): Condition {
  const [place = '', value] = text.replace(/^!/, '').split('=');
  const [register = '', field = ''] = place.split('.');
  return {
    register,
    field,
    is: value !== undefined ? Number(value) : text.startsWith('!') ? 'clear' : 'set',
  };
}
