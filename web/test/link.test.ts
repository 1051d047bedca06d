/** @jest-environment node */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Plan } from '@herzschlag/core';
import { linkOf, planTextIn } from '../src/state/link.ts';

const plan = JSON.parse(
  readFileSync(join(__dirname, '../../examples/harbour-buoy.plan.json'), 'utf8'),
) as Plan;

describe('a link that carries a plan', () => {
  it('brings it back as it was, in signs that every program passes on', async () => {
    const link = await linkOf(plan, 'http://127.0.0.1:3000');
    if (!link.ok) throw new Error(link.fault.sentence);
    expect(link.value).toMatch(/^http:\/\/127\.0\.0\.1:3000\/#plan=[\w-]+$/);
    expect(link.value.length).toBeLessThan(4000);
    const { hash } = new URL(link.value);
    expect(JSON.parse((await planTextIn(hash)) ?? '')).toEqual(plan);
  });

  it('is no link where the plan is too large for one', async () => {
    const name = Array.from({ length: 40_000 }, (_, at) => String.fromCharCode(33 + ((at * 7919) % 90))).join(
      '',
    );
    const noise = Array.from({ length: 9000 }, (_, at) => ((at * 2654435761) % 4294967296).toString(36)).join(
      '',
    );
    const link = await linkOf({ ...plan, name: name + noise }, 'http://127.0.0.1:3000');
    expect(link.ok ? '' : link.fault.sentence).toContain('save the file instead');
  });

  it('is not looked for in another fragment, and a damaged one is said', async () => {
    expect(await planTextIn('#top')).toBeUndefined();
    await expect(planTextIn('#plan=!!!')).rejects.toThrow();
    await expect(planTextIn('#plan=AAAA')).rejects.toThrow();
  });
});
