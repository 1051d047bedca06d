import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { HtmlValidate } from 'html-validate';
import { JSDOM } from 'jsdom';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import { reportHtml } from '../../src/report/html.ts';
import { reportMarkdown } from '../../src/report/markdown.ts';
import { planReport } from '../../src/report/sections.ts';
import { PARTS, shipped } from '../helpers/parts.ts';
import { planOn } from '../helpers/plan.ts';

const EXAMPLES = join(__dirname, '../../../examples');
const DEMOS = readdirSync(EXAMPLES).filter((name) => name.endsWith('.plan.json'));

function demo(name: string) {
  const read = readPlan(readFileSync(join(EXAMPLES, name), 'utf8'), PARTS);
  if (!read.ok) throw new Error(read.fault.sentence);
  return read.value;
}

const plain = (text: string | null | undefined): string => (text ?? '').replace(/[\u202f\u00a0]/g, ' ');

describe('a report', () => {
  it('has demos to describe', () => {
    expect(DEMOS.length).toBeGreaterThan(0);
  });

  it.each(DEMOS)(
    'of %s holds each check and each register of the evaluation, and refers to nothing outside',
    (name) => {
      const { plan, part } = demo(name);
      const { signals, registers, passing, total } = evaluatePlan(plan, part);
      const html = reportHtml(planReport(plan, part));
      const { document } = new JSDOM(html).window;
      const rows = [...document.querySelectorAll('tbody tr')].map((row) => plain(row.textContent));
      expect(document.querySelector('h1')?.textContent).toBe(plan.name);
      expect(plain(document.querySelector('.verdict')?.textContent)).toContain(
        `${passing} of ${total} checks pass`,
      );
      const checks = signals.flatMap(({ outcome }) => outcome?.checks ?? []);
      expect(document.querySelectorAll('td.pass, td.fail, td.unknown')).toHaveLength(checks.length);
      for (const register of registers) expect(rows.some((row) => row.startsWith(register.name))).toBe(true);
      expect([...document.querySelectorAll('[src], [href], script')]).toEqual([]);
      const drawn = signals.filter(({ outcome }) => outcome);
      const curves = signals.flatMap(({ signal }) => [signal.knob, signal.readings]).filter(Boolean);
      const pictures = [...document.querySelectorAll('svg')].map((one) => one.getAttribute('aria-label'));
      const [periods, landscapes] = ['periods,', 'Settings by'].map((word) =>
        pictures.filter((text) => text?.includes(word)),
      );
      expect(periods).toHaveLength(drawn.length);
      expect(landscapes?.length).toBeGreaterThan(0);
      expect(pictures).toHaveLength(drawn.length + (landscapes?.length ?? 0) + curves.length);
      // The same plan, the same bytes.
      expect(reportHtml(planReport(plan, part))).toBe(html);
    },
  );

  it.each(DEMOS)('of %s is valid HTML', async (name) => {
    const { plan, part } = demo(name);
    const validator = new HtmlValidate({ extends: ['html-validate:standard'] });
    const { results } = await validator.validateString(reportHtml(planReport(plan, part)));
    expect(
      results.flatMap(({ messages }) => messages.map(({ line, message }) => `${line}: ${message}`)),
    ).toEqual([]);
  });

  it.each(DEMOS)('of %s as Markdown has whole tables', (name) => {
    const { plan, part } = demo(name);
    const lines = reportMarkdown(planReport(plan, part)).split('\n');
    const cells = (line: string): number => line.replace(/\\\|/g, '').split('|').length;
    let width = 0;
    let tables = 0;
    for (const line of lines) {
      if (!line.startsWith('|')) width = 0;
      else if (width === 0) {
        width = cells(line);
        tables += 1;
      } else expect(cells(line)).toBe(width);
    }
    expect(tables).toBeGreaterThan(plan.signals.length);
  });

  it('says a conflict once, not for each of its signals', () => {
    const { plan, part } = demo('harbour-buoy.plan.json');
    const [verdict] = planReport(plan, part).sections;
    const items = verdict?.blocks[0]?.is === 'list' ? verdict.blocks[0].items : [];
    const conflicts = items.filter((item) => item.startsWith('Conflict: '));
    expect(conflicts.length).toBeGreaterThan(0);
    for (const item of conflicts) {
      const sentence = item.slice('Conflict: '.length);
      expect(items.filter((one) => one.endsWith(sentence))).toEqual([item]);
    }
  });

  it('escapes what a name could break, and says what fails', () => {
    const plan = {
      ...planOn(shipped('atmega328p'), {
        id: 'one',
        name: '<b>Lamp</b> | *one*',
        kind: 'blink' as const,
        target: { frequencyHz: 1, frequencyTolerancePpm: 1 },
      }),
      name: 'A & "B" <script>',
    };
    const report = planReport(plan, shipped('atmega328p'));
    const html = reportHtml(report);
    expect(html).toContain('<h1>A &amp; &quot;B&quot; &lt;script&gt;</h1>');
    expect(html).not.toContain('<b>Lamp');
    expect(new JSDOM(html).window.document.querySelector('p.verdict.fail')).not.toBeNull();
    expect(reportMarkdown(report)).toContain('### \\<b\\>Lamp\\</b\\> \\| \\*one\\*');
    expect(report.sections[0]?.blocks[0]).toMatchObject({ is: 'list' });
  });

  it('draws three periods with the edges where they are: 25 % of 1 kHz, high from the start', () => {
    const signal = {
      id: 'one',
      name: 'Fan',
      pin: 'PB1',
      kind: 'pwm' as const,
      target: { frequencyHz: 1000, duty: 0.25 },
    };
    const html = reportHtml(planReport(planOn(shipped('atmega328p'), signal), shipped('atmega328p')));
    const path = new JSDOM(html).window.document.querySelector('svg path')?.getAttribute('d') ?? '';
    const falls = [...path.matchAll(/H([\d.]+)V34/g)].map(([, at]) => Number(at));
    const rises = [...path.matchAll(/H([\d.]+)V6/g)].map(([, at]) => Number(at));
    // A third of 640 is a period, a quarter of it is high.
    expect(rises).toHaveLength(3);
    expect(falls).toHaveLength(3);
    const high = ((falls[1] ?? 0) - (rises.filter((at) => at <= (falls[1] ?? 0)).at(-1) ?? 0)) / (640 / 3);
    expect(high).toBeCloseTo(0.25, 3);
  });
});
