import { PLAN_VERSION } from '../../src/plan/versions.ts';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import type { CodeFile } from '../../src/codegen/c-files.ts';
import { addressOf, inStyle, registerName } from '../../src/part/register-names.ts';
import { clockPath } from '../../src/clock/path.ts';
import { decodeText } from '../../src/decode/decode.ts';
import { noStartUpCode, planCode } from '../../src/evaluate/code.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan } from '../../src/plan/plan.ts';
import { plansFor } from '../helpers/chip-plans.ts';
import { addressesOfEsp32 } from '../helpers/esp32-addresses.ts';
import { DEVICE_HEADERS, headerOf, placeIn, type DeviceHeader } from '../helpers/device-headers.ts';
import { PARTS, shipped } from '../helpers/parts.ts';

const COMPILER = '/usr/bin/arm-none-eabi-gcc';

/** Parts whose device header is written down for these tests. */
const IDS = Object.keys(DEVICE_HEADERS);

function headerFor(id: string): DeviceHeader {
  const header = DEVICE_HEADERS[id];
  if (!header) throw new Error(`no header of ${id}`);
  return header;
}

/** Definitions by address turned into the places that the manual has there. */
function byAddress(text: string, header: DeviceHeader): string {
  const placeOf = placeIn(header);
  return text.replace(
    /\(\*\(volatile uint(\d+)_t \*\)(0x[0-9A-F]+)u\)/g,
    (whole, bits: string, address: string) => placeOf(Number(address), Number(bits)) ?? whole,
  );
}

describe('names of the device’s header', () => {
  it.each([
    ['stm32f401', 'TIM3_CR1', 'TIM3->CR1'],
    ['stm32f401', 'GPIOB_AFRH', 'GPIOB->AFR[1]'],
    ['stm32f401', 'GPIOA_MODER', 'GPIOA->MODER'],
    ['stm32f401', 'RCC_APB1ENR', 'RCC->APB1ENR'],
    ['stm32f401', 'NVIC_ISER1', 'NVIC->ISER[1]'],
    ['stm32f401', 'SysTick_LOAD', 'SysTick->LOAD'],
    // No rule has it: it keeps its own name and address.
    ['stm32f401', 'NVIC_IPR7', 'NVIC_IPR7'],
    ['rp2040', 'CH3_CSR', 'PWM->CH3_CSR'],
    ['rp2040', 'GPIO25_CTRL', 'IO_BANK0->GPIO25_CTRL'],
    ['rp2040', 'SIO_GPIO_OUT_SET', 'SIO->GPIO_OUT_SET'],
    ['rp2040', 'SYST_RVR', 'SysTick->LOAD'],
    ['mk20dx256', 'FTM1_C0V', 'FTM1->CONTROLS[0].CnV'],
    ['mk20dx256', 'FTM0_C7SC', 'FTM0->CONTROLS[7].CnSC'],
    ['mk20dx256', 'PIT_TCTRL2', 'PIT->CHANNEL[2].TCTRL'],
    ['mk20dx256', 'PORTC_PCR1', 'PORTC->PCR[1]'],
    ['samd21g18', 'TCC0_CCB2', 'TCC0->CCB[2].reg'],
    ['samd21g18', 'TC3_MODE_16_CC1', 'TC3->COUNT16.CC[1].reg'],
    ['samd21g18', 'TC3_CTRLA', 'TC3->COUNT16.CTRLA.reg'],
    ['samd21g18', 'PORT_B_PMUX4', 'PORT->Group[1].PMUX[4].reg'],
    ['samd21g18', 'SYSTICK_CSR', 'SysTick->CTRL'],
    ['pic16f18875', 'T2PR', 'T2PR'],
  ])('of %s: %s is %s', (id, own, name) => {
    const part = shipped(id);
    expect(part.registers.map((register) => register.name)).toContain(own);
    expect(registerName(inStyle(part, 'device'), own)).toBe(name);
    expect(registerName(part, own)).toBe(own);
  });

  it.each(IDS)('of %s: each stands where the manual has it', (id) => {
    const part = shipped(id);
    const device = inStyle(part, 'device');
    const placeOf = placeIn(headerFor(id));
    const written = part.registers.flatMap(({ name, address, width }) => {
      const place = placeOf(address, width);
      return place === undefined ? [] : [[name, registerName(device, name), place]];
    });
    expect(written.length).toBeGreaterThan(40);
    for (const [name, ours, theirs] of written) expect([name, ours]).toEqual([name, theirs]);
  });

  it('the code of a PIC part defines nothing that its header has', () => {
    const part = shipped('pic16f18875');
    const plan: Plan = {
      format: 'herzschlag-plan',
      version: PLAN_VERSION,
      name: 'Sluice',
      part: part.id,
      clock: { source: 'crystal', sourceHz: 8_000_000 },
      signals: [
        { id: 'gate', name: 'Gate', kind: 'pwm', target: { frequencyHz: 2000, duty: 0.25, minSteps: 100 } },
      ],
    };
    const text = planCode(plan, part, { registers: 'device' })
      .files.map((file) => file.text)
      .join('\n');
    expect(text).toContain('#include <xc.h>');
    expect(text).not.toContain('volatile uint8_t *');
    expect(text).toMatch(/^ {4}T\dPR = /m);
  });

  it('ESP32: its headers give addresses, by which the code defines the registers under their own names', () => {
    const part = shipped('esp32');
    const device = inStyle(part, 'device');
    const named = part.registers.map((register) => [addressOf(device, register), register.address]);
    const own = addressesOfEsp32();
    expect(named.length).toBeGreaterThan(100);
    for (const [name, address] of named) expect([name, own.get(String(name))]).toEqual([name, address]);
    const plan: Plan = {
      format: 'herzschlag-plan',
      version: PLAN_VERSION,
      name: 'Sluice',
      part: part.id,
      clock: part.defaultClock,
      signals: [
        { id: 'gate', name: 'Gate', kind: 'pwm', target: { frequencyHz: 2000, duty: 0.25, minSteps: 100 } },
      ],
    };
    const [one, other] = [{}, { registers: 'device' } as const].map(
      (style) => planCode(plan, part, style).files,
    );
    expect(other?.[0]?.text).toContain('#include "soc/ledc_reg.h"');
    expect(other?.[0]?.text).toMatch(/^#define (\w+) \(\*\(volatile uint32_t \*\)\1_REG\)$/m);
    expect(other?.[0]?.text).not.toContain('*)0x');
    // The statements are the same.
    const statements = (text = '') => text.replace(/^#(?:define|include) .*$\n/gm, '');
    expect(statements(other?.[0]?.text)).toBe(statements(one?.[0]?.text));
  });

  it('one style is all that parts without such a header have', () => {
    for (const one of PARTS) if (!one.code.device) expect(inStyle(one, 'device')).toBe(one);
  });
});

/** Random plans that become a program, with their files in both styles. */
function programs(part: Part, count: number): { own: CodeFile[]; named: CodeFile[] }[] {
  const clocks = noStartUpCode(part) === undefined;
  return fc
    .sample(plansFor(part), { numRuns: count, seed: 71_126 })
    .filter(({ signals }) => signals.length > 0)
    .map((plan) => ({
      own: planCode(plan, part, { startUp: clocks }).files,
      named: planCode(plan, part, { startUp: clocks, registers: 'device' }).files,
    }));
}

const skipped = existsSync(COMPILER) ? describe : describe.skip;
if (!existsSync(COMPILER)) process.stderr.write(`skipped: ${COMPILER} is missing\n`);

skipped.each(IDS)('code for %s with names of the device’s header', (id) => {
  const part = shipped(id);
  const header = headerFor(id);

  it('is the same program, instruction by instruction, as that with addresses', () => {
    const directory = mkdtempSync(join(tmpdir(), 'hz-device-'));
    const options = { cwd: directory, encoding: 'utf8' } as const;
    const core = part.code.compiler?.device ?? '';
    const flags = `-mcpu=${core} -mthumb -Os -std=c11 -Wall -Wextra -Werror -Wconversion -pedantic -c`.split(
      ' ',
    );
    const compiled = (files: readonly CodeFile[]): string => {
      for (const { name, text } of files) writeFileSync(join(directory, name), text);
      const source = files.find(({ name }) => name.endsWith('.c'))?.name ?? '';
      execFileSync(COMPILER, [...flags, source, '-o', 'own.o'], options);
      return execFileSync('arm-none-eabi-objdump', ['-dr', 'own.o'], options);
    };
    try {
      writeFileSync(join(directory, header.file), headerOf(header));
      let compared = 0;
      for (const { own, named } of programs(part, 8)) {
        const text = named.map((file) => file.text).join('\n');
        expect(text).toContain(`#include "${header.file}"`);
        expect(text).toContain('->');
        const words = own.map(({ name, text: one }) => ({
          name,
          text: `#include "${header.file}"\n${byAddress(one, header)}`,
        }));
        const [first, second] = [compiled(words), compiled(named)];
        expect(second).toBe(first);
        compared += 1;
      }
      expect(compared).toBeGreaterThan(0);
    } finally {
      rmSync(directory, { recursive: true, force: true });
    }
  });

  it('is read as the same settings', () => {
    const path = clockPath(part, part.defaultClock);
    for (const { own, named } of programs(part, 8)) {
      const [one, other] = [own, named].map((files) => {
        const body = files[0]?.text ?? '';
        const found = decodeText(part, path, body.slice(body.indexOf('#include')));
        if (!found.ok) throw new Error(found.fault.sentence);
        return found.value.timers;
      });
      expect(other).toEqual(one);
    }
  });
});
