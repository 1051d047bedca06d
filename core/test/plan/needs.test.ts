import { needsIn, signalsOfNeeds } from '../../src/plan/needs.ts';

function kinds(text: string): string[] | undefined {
  return needsIn(text)?.map(({ kind }) => kind);
}

describe('what a part must do', () => {
  it.each([
    ['four servos and a tone', ['pulse', 'pulse', 'pulse', 'pulse', 'tone']],
    ['2 fans 25 kHz, an LED at 30 %', ['pwm', 'pwm', 'dim']],
    ['a tick every 10 ms + 3 blinking lamps', ['tick', 'blink', 'blink', 'blink']],
    ['anemometer 1 to 70 Hz', ['measure']],
  ])('%s', (text, expected) => {
    expect(kinds(text)).toEqual(expected);
  });

  it.each(['32-bit timer', 'fractional divider', 'STM32', '16 channels', '', 'four elephants', '41 servos'])(
    '“%s” is something else',
    (text) => {
      expect(needsIn(text)).toBeUndefined();
    },
  );

  it('each signal has an id and a name of its own', () => {
    const signals = signalsOfNeeds(needsIn('two servos and a tone') ?? []);
    expect(signals.map(({ id, name }) => [id, name])).toEqual([
      ['servo', 'Servo'],
      ['servo-2', 'Servo 2'],
      ['buzzer', 'Buzzer'],
    ]);
  });
});
