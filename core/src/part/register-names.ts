import type { Part, Register } from './types.ts';

/** How the code names registers: as the part's data does, or as the header of the device has them. */
export type RegisterStyle = 'own' | 'device';

/** What stands for itself in a rule: digits, one letter, or the rest of a name. */
const SYMBOLS: Readonly<Record<string, string>> = { '#': '(\\d+)', '@': '([A-Z])', '*': '(\\w+)' };

const compiled = new Map<string, RegExp>();

function patternOf(rule: string): RegExp {
  const known = compiled.get(rule) ?? new RegExp(`^${rule.replace(/[#@*]/g, (one) => SYMBOLS[one] ?? one)}$`);
  compiled.set(rule, known);
  return known;
}

/** The part as the code of a style sees it; without a device header there is one style. */
export function inStyle(part: Part, style: RegisterStyle): Part {
  const { device, headers } = part.code;
  if (style === 'own' || !device) return part;
  const own = typeof device.header === 'string' ? [device.header] : device.header;
  return { ...part, code: { ...part.code, registers: 'device', headers: [...headers, ...own] } };
}

/** What the header of the device has for a register; undefined where it has nothing, or the code does not use it. */
function inHeader(part: Part, name: string): string | undefined {
  const { registers, device } = part.code;
  return registers !== 'device' || !device ? undefined : byRules(device.names, name);
}

/** A register's name by the first rule that fits it. */
function byRules(rules: readonly { registers: string; as: string }[], name: string): string | undefined {
  for (const { registers: rule, as } of rules) {
    const [, ...found] = patternOf(rule).exec(name) ?? [];
    if (!patternOf(rule).test(name)) continue;
    const symbols = [...rule.matchAll(/[#@*]/g)].map(([symbol]) => symbol);
    return as.replace(/[#@*]/g, (symbol) => {
      const at = symbols.indexOf(symbol);
      symbols.splice(at, 1);
      return found.splice(at, 1)[0] ?? '';
    });
  }
  return undefined;
}

/** What a register is called in the device's header; undefined where it has no name for it. */
function deviceName(part: Part, name: string): string | undefined {
  return part.code.device?.gives === 'addresses' ? undefined : inHeader(part, name);
}

/** The address of a register in C: what the device's header calls it where that gives addresses, else the number. */
export function addressOf(part: Part, { name, address }: Register): string {
  const named = part.code.device?.gives === 'addresses' ? inHeader(part, name) : undefined;
  return named ?? `0x${address.toString(16).toUpperCase()}u`;
}

/** Whether the code has to define a register: no header that it includes does. */
export function isDefinedHere(part: Part, name: string): boolean {
  return part.code.registers !== 'names' && deviceName(part, name) === undefined;
}

/** What a register is called in the code; one that the device's header has no name for keeps its own. */
export function registerName(part: Part, name: string): string {
  return deviceName(part, name) ?? name;
}

const named = new WeakMap<Part, Map<string, string>>();

/** The register that the header of the device, or a library, calls so: "GPIOA->AFR[1]"; undefined where none is. */
export function registerOfDevice(part: Part, name: string): string | undefined {
  const known = named.get(part) ?? new Map<string, string>();
  if (!named.has(part)) {
    const device = inStyle(part, 'device');
    for (const { name: own } of part.registers) {
      for (const alias of part.code.aliases ?? []) {
        const other = byRules([alias], own);
        if (other !== undefined) known.set(other, own);
      }
      known.set(registerName(device, own), own);
    }
    named.set(part, known);
  }
  return known.get(name);
}
