import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { CodeFile } from '../../src/codegen/c-files.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { interruptsIn, registerOf } from '../../src/part/find.ts';
import { conditionOf } from '../../src/part/condition.ts';
import type { BringUpGroup, Part, Register } from '../../src/part/types.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { lazily } from '../../src/result/lazily.ts';
import { fieldBits } from '../../src/timer/fields.ts';

/** What a program did: a read or a write of a register, a call of a function that is the user's, or a mark of the test. */
export type Step =
  | { do: 'read' | 'write'; register: string; value: number }
  | { do: 'call' | 'mark'; name: string };

/** Generated files, and what a test does with them: statements of C++ after the functions they may call. */
export type Program = { part: Part; files: readonly CodeFile[]; body: readonly string[] };

/** Fields that code waits for by register; one that is to have a value counts through all it can have. */
function awaited(part: Part): Map<string, { mask: number; shift: number; counts: boolean }[]> {
  const stepsOf = (steps: readonly object[]): string[] =>
    steps.flatMap((step) => ('until' in step && typeof step.until === 'string' ? [step.until] : []));
  const conditions = [
    ...part.registers.flatMap(({ taken }) => taken ?? []),
    ...part.timers.flatMap(({ ready = [], sequence }) => [
      ...ready,
      ...sequence.flatMap(({ until }) => until ?? []),
    ]),
    ...part.pins.flatMap(({ ready = [] }) => ready),
    ...part.timers.flatMap(({ channels }) =>
      channels.flatMap(({ queue }) => (queue ? [queue.room, queue.empty] : [])),
    ),
    ...part.clocks.flatMap((node) =>
      node.kind === 'choice' ? Object.values(node.start ?? {}).flatMap(stepsOf) : [],
    ),
    ...(Array.isArray(part.bringUp) ? part.bringUp : []).flatMap(({ steps }: BringUpGroup) => stepsOf(steps)),
  ];
  const fields = new Map<string, { mask: number; shift: number; counts: boolean }[]>();
  for (const condition of conditions) {
    const { register, field, is } = conditionOf(condition);
    const { mask, shift } = fieldBits(registerOf(part, register), field);
    const known = fields.get(register) ?? [];
    const same = known.find((one) => one.mask === mask);
    if (same) same.counts ||= typeof is === 'number';
    else fields.set(register, [...known, { mask, shift, counts: typeof is === 'number' }]);
  }
  return fields;
}

function registerIn(place: string): string {
  return place.split('.')[0] ?? '';
}

/** Registers whose flags go away by writing ones, with the registers in which they are read: while the interrupt is enabled, and else. */
function cleared(part: Part): Map<string, { status: string; raw: string }> {
  const found = new Map<string, { status: string; raw: string }>();
  for (const { queue } of part.timers.flatMap(({ channels }) => channels))
    if (queue)
      found.set(registerIn(queue.gap), { status: registerIn(queue.gap), raw: registerIn(queue.gap) });
  for (const { flag, status = flag, polled, clear } of interruptsIn(part)) {
    if (clear !== 'write-one' && clear !== 'entry-or-one') continue;
    found.set(registerIn(flag), { status: registerIn(status), raw: registerIn(polled || status) });
  }
  return found;
}

/** Registers whose flags go away by writing zeros, and where ones change nothing. */
function clearedByZeros(part: Part): Set<string> {
  return new Set(
    interruptsIn(part).flatMap(({ flag, clear }) => (clear === 'write-zeros' ? [registerIn(flag)] : [])),
  );
}

/** The flags that tell that a period of a timer has ended, by the registers in which they are read without their interrupts. */
function endFlags(part: Part): Map<string, number> {
  const masks = new Map<string, number>();
  for (const { flag, status = flag, polled } of interruptsIn(part)) {
    const [name = '', field = null] = (polled || status).split('.');
    masks.set(name, ((masks.get(name) ?? 0) | fieldBits(registerOf(part, name), field).mask) >>> 0);
  }
  return masks;
}

const MODEL = `
#include <stdint.h>
#include <stdio.h>
static bool silent = false;
static bool passing = false;
static unsigned long looks = 0;
static unsigned long period = 3;
static unsigned long event = 0;
static unsigned long passes = 0;
static void told_passes() { if (passes) printf("m passes=%lu\\n", passes); passes = 0; }
struct Any { Any *next; virtual void fresh() = 0; };
static Any *all = 0;
static void fresh() { for (Any *one = all; one; one = one->next) one->fresh(); }
template <typename T> struct Reg : Any {
  const char *name; T reset; T value; T awaited; uint32_t (*told)(unsigned); bool ones; bool zeros; bool watched; Reg *status; Reg *raw; T ends; unsigned reads;
  Reg(const char *n, T v, T a, uint32_t (*t)(unsigned), bool o, bool z, T e = 0) : name(n), reset(v), awaited(a), told(t), ones(o), zeros(z), status(0), raw(0), ends(e) { next = all; all = this; }
  void fresh() { value = reset; watched = false; reads = 0; }
  T read() {
    if (passing && ends && ++looks % period == 0) value = (T)(value | ends);
    T seen = (T)((value & (T)~awaited) | (awaited ? (T)told(reads++ >> 1) : (T)0));
    if (!silent) printf("r %s %lu\\n", name, (unsigned long)seen);
    return seen;
  }
  T write(T v) {
    told_passes();
    if (silent && watched) printf("m @%lu\\n", event);
    if (!silent || watched) printf("w %s %lu\\n", name, (unsigned long)v);
    if (status) status->value = (T)(status->value & ~v);
    if (raw) raw->value = (T)(raw->value & ~v);
    value = ones ? (T)(value & ~v) : zeros ? (T)(value & v) : v;
    return v;
  }
  operator T() { return read(); }
  T operator=(T v) { return write(v); }
  T operator|=(T v) { return write((T)(read() | v)); }
  T operator&=(T v) { return write((T)(read() & v)); }
  T operator^=(T v) { return write((T)(read() ^ v)); }
  T operator+=(T v) { return write((T)(read() + v)); }
};
static void mark(const char *text) { told_passes(); printf("m %s\\n", text); }
static void called(const char *text) {
  if (silent) printf("m @%lu\\n", event);
  printf("c %s\\n", text);
}
static void tell(const char *name, unsigned long value) { printf("m %s=%lu\\n", name, value); }
static void allow() { printf("m allow\\n"); }
static uint8_t SREG;
#define PROGMEM
#define pgm_read_byte(place) (*(place))
#define pgm_read_word(place) (*(place))
#define pgm_read_dword(place) (*(place))
static void cli() {}
static void sei() { allow(); }
`;

/** Generated text as C++ whose registers are objects; what only the chip's compiler knows is put in other words. */
function modelled(part: Part, text: string): string {
  return (
    text
      .replace(/^#include .*$/gm, '')
      // Programs of one name stand side by side.
      .replace(/^#ifndef (\w+_H)\n#define \1\n([\s\S]*)\n#endif\s*$/, '$2')
      .replace(/^#define (\w+) \(\*\(volatile .*$/gm, '')
      .replace(/^#ifdef __cplusplus\n(?:extern "C" \{|\})\n#endif$/gm, '')
      .replace(/\bISR\((\w+)\)/g, 'void $1(void)')
      .replace(/\(void\)(\w+);/g, (whole, name: string) =>
        part.registers.some((register) => register.name === name) ? `(void)${name}.read();` : whole,
      )
      .replace(
        /__asm__ __volatile__ \("sts.*?_SFR_MEM_ADDR\((\w+)\)\), "r" \(\(uint8_t\)\((.*?)\)\), "r" \(\(uint8_t\)\((.*?)\)\)\);/g,
        '$1 = $2; $1 = $3;',
      )
      .replace(/__asm__ __volatile__ \(\n[\s\S]*?\n\s*\);/g, '(void)byte; (void)high; (void)low;')
      .replace(/__asm__ __volatile__ \("1: sbiw[^;]*;/g, 'passes += pass;')
      .replace(/__asm volatile \(""\);/g, 'passes += 1;')
      .replace(/__asm volatile \("(?:mrs|rsil %0)[^;]*;/g, 'status = 0u;')
      .replace(/__asm volatile \("(?:msr|wsr)[^;]*;/g, '(void)status;')
      .replace(/__asm volatile \("(?!")[^;]*;/g, 'allow();')
  );
}

/** Declares registers, which all programs of a part share: each of them begins with `fresh()`. */
function registerLines(part: Part, used: readonly Register[]): string[] {
  const waits = awaited(part);
  const ones = cleared(part);
  const zeros = clearedByZeros(part);
  const ends = endFlags(part);
  const declared = used.map(({ name, width, reset }) => {
    const fields = waits.get(name) ?? [];
    const mask = fields.reduce((sum, field) => sum + field.mask, 0);
    const told = fields.map((field) =>
      field.counts ? `((n << ${field.shift}) & ${field.mask}u)` : `((n & 1u) ? ${field.mask}u : 0u)`,
    );
    const teller = told.length > 0 ? `[](unsigned n) -> uint32_t { return ${told.join(' | ')}; }` : '0';
    return `static Reg<uint${width}_t> ${name}("${name}", ${reset}u, ${mask}u, ${teller}, ${ones.has(name)}, ${zeros.has(name)}, (uint${width}_t)${ends.get(name) ?? 0}u);`;
  });
  const names = new Set(used.map(({ name }) => name));
  const linked = [...ones].flatMap(([flag, { status, raw }]) => {
    const link = (how: string, to: string): string[] =>
      flag !== to && names.has(flag) && names.has(to) ? [`${flag}.${how} = &${to};`] : [];
    return [...link('status', status), ...link('raw', raw)];
  });
  return [...declared, `static void link() { ${linked.join(' ')} }`];
}

/** The bit names that the chip's headers would define. */
function bitLines(part: Part, used: readonly Register[]): string[] {
  if (part.code.registers !== 'names') return [];
  return used.flatMap(({ fields }) =>
    Object.entries(fields).flatMap(([name, [, least]]) => [`#undef ${name}`, `#define ${name} ${least}`]),
  );
}

/** The registers that programs of a part name. */
function usedRegisters(part: Part, programs: readonly Program[]): Register[] {
  const texts = programs.flatMap(({ files, body }) => [...files.map(({ text }) => text), ...body]);
  const words = new Set(texts.flatMap((text) => text.match(/\b[A-Za-z_]\w*\b/g) ?? []));
  // A flag's register comes with the one that it is cleared in.
  const flags = [...cleared(part)].flatMap(([flag, { status, raw }]) => {
    const all = [flag, status, raw];
    return all.some((name) => words.has(name)) ? all : [];
  });
  return part.registers.filter(({ name }) => words.has(name) || flags.includes(name));
}

function programText({ part, files, body }: Program, at: number): string {
  const [source, header] = files;
  if (!source || !header) throw new RangeError('a program has a source and a header');
  const callbacks = [
    ...header.text.matchAll(/To be implemented by the application.*\nvoid (\w+)\(void\);/g),
  ].map(([, name = '']) => `void ${name}(void) { called("${name}"); }`);
  // What an assembler file has: on the model it does nothing.
  const outside = [...source.text.matchAll(/^void (\w+)_bits\(void\);$/gm)].map(
    ([, label = '']) => `volatile uint16_t ${label}_from, ${label}_left; void ${label}_bits(void) {}`,
  );
  return [
    `namespace p${at} {`,
    modelled(part, header.text),
    ...callbacks,
    modelled(part, source.text),
    ...outside,
    'static void test() {',
    ...body,
    '}',
    '}',
  ].join('\n');
}

/** The programs of one part, each in a name space of its own, in one of the part. */
function partText(part: Part, at: number, programs: ReadonlyMap<number, Program>): string {
  const used = usedRegisters(part, [...programs.values()]);
  return [
    ...bitLines(part, used),
    `namespace chip${at} {`,
    ...registerLines(part, used),
    ...[...programs].map(([number, program]) => programText(program, number)),
    '}',
  ].join('\n');
}

function stepOf(line: string): Step {
  const [kind = '', name = '', value = '0'] = line.split(' ');
  if (kind === 'm' || kind === 'c') return { do: kind === 'm' ? 'mark' : 'call', name: line.slice(2) };
  return { do: kind === 'r' ? 'read' : 'write', register: name, value: Number(value) };
}

/**
 * Runs generated programs with their registers on a model of the chip: flags that go away by writing ones do so, fields that are waited for
 * change their value every other read, everything else keeps what was written. Gives what each program did, in order.
 */
export function runOnChip(programs: readonly Program[]): Step[][] {
  const parts = [...new Set(programs.map(({ part }) => part))];
  const texts = parts.map((part, at) => {
    const own = [...programs.entries()].filter(([, program]) => program.part === part);
    return partText(part, at, new Map(own));
  });
  const runs = programs.map(
    ({ part }, at) => `fresh(); chip${parts.indexOf(part)}::p${at}::test(); printf("=\\n");`,
  );
  const links = parts.map((_, at) => `chip${at}::link();`);
  const text = [MODEL, ...texts, 'int main() {', ...links, ...runs, 'return 0; }'].join('\n');
  const directory = mkdtempSync(join(tmpdir(), 'chip-'));
  const options = { cwd: directory, stdio: ['ignore', 'pipe', 'pipe'] as ['ignore', 'pipe', 'pipe'] };
  try {
    writeFileSync(join(directory, 'all.cpp'), text);
    execFileSync('g++', ['-std=c++17', '-O0', '-w', '-DRELOAD_IN_C', 'all.cpp', '-o', 'all'], options);
    const out = execFileSync(join(directory, 'all'), { timeout: 60_000, maxBuffer: 2 ** 29 }).toString();
    const told = out.split('=\n').slice(0, -1);
    return told.map((one) => one.split('\n').filter(Boolean).map(stepOf));
  } finally {
    rmSync(directory, { recursive: true, force: true });
  }
}

/** Runs programs on the model, all of them at once when the first is asked for; gives what each did, by its key. */
export function runTogether<K>(programs: ReadonlyMap<K, Program>): (key: K) => Step[] {
  const runs = lazily(() => {
    const all = runOnChip([...programs.values()]);
    return new Map([...programs.keys()].map((key, at) => [key, all[at] ?? []]));
  });
  return (key) => runs().get(key) ?? [];
}

/** The program of a plan that is called "Try out": started, then some calls, with a mark before each of them. */
export function tryOut(part: Part, plan: Plan, calls: readonly string[]): Program {
  const body = [
    'try_out_init();',
    'try_out_start();',
    ...calls.flatMap((call, at) => [`mark("call ${at}");`, call]),
  ];
  return { part, files: planCode(plan, part).files, body };
}
