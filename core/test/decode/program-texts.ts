import type { ClockSetting } from '../../src/clock/path.ts';

/** A program as people write it, on a part, with what a person expects it to do: drive, pin, frequency in Hz and duty. */
export type Pasted = {
  name: string;
  part: string;
  clock?: Partial<ClockSetting>;
  text: string;
  does: [drive: string, pin: string | undefined, hz: number, duty?: number][];
  /** Statements that are left out. */
  skips?: number;
};

const avr = (name: string, text: string, does: Pasted['does'], more: Partial<Pasted> = {}): Pasted => ({
  name,
  part: 'atmega328p',
  text,
  does,
  ...more,
});

export const PROGRAMS: readonly Pasted[] = [
  avr(
    'a lamp on PB1 by hand-written bits',
    `#include <avr/io.h>
#define TOP 31249
int main(void) {
  DDRB |= (1<<PB1);                 // lamp
  TCCR1A = (1 << COM1A0);
  TCCR1B = (1 << WGM12) | (1<<CS12);
  OCR1A = TOP;
  while (1) { }
}`,
    [['toggle', 'PB1', 1, 0.5]],
  ),
  avr(
    'a fan at 25 kHz, halves of the wide registers, a function with an argument',
    `static void fan_init(uint16_t top) {
  DDRB |= _BV(DDB1);
  ICR1H = top >> 8; ICR1L = top & 0xFF;
  OCR1AH = 0; OCR1AL = 255;
  TCCR1A = _BV(COM1A1) | _BV(WGM11);
  TCCR1B = _BV(WGM13) | _BV(WGM12) | _BV(CS10);
}
int main() { fan_init(639); for (;;) {} }`,
    [['pwm', 'PB1', 25000, 0.4]],
  ),
  avr(
    'unknown lines around a tone',
    `Serial.begin(9600);
DDRD |= (1<<PD3);
LCD_init(&lcd, 4);
TCCR2A = bit(COM2B1) | bit(WGM21) | bit(WGM20);
TCCR2B = bit(WGM22) | bit(CS22);
OCR2A = 249;  OCR2B = 124;
UNKNOWN_REG = 5;
`,
    [['pwm', 'PD3', 1000, 0.5]],
    { skips: 1 },
  ),
  avr(
    'a tick by its handler, definitions with arguments, an enumeration',
    `#define F_TICK 1000UL
#define TICKS(hz) (16000000UL / 64 / (hz) - 1)
enum { LED = 5, BUTTON };
volatile uint8_t flag;
ISR(TIMER0_COMPA_vect) { flag = 1; PORTB ^= 1 << LED; }
void setup() {
  TCCR0A = 1 << WGM01;
  TCCR0B = (1 << CS01) | (1 << CS00);
  OCR0A = TICKS(F_TICK);
  TIMSK0 |= 1 << OCIE0A;
  sei();
}
void loop() { if (flag) { flag = 0; count++; } }`,
    [['interrupt', undefined, 1000]],
  ),
  avr(
    'three timers in one paste',
    `DDRB = 0x0E; DDRD = 0x68;
TCCR0A = 0xA3; TCCR0B = 0x03; OCR0A = 63; OCR0B = 191;
TCCR1A = 0x82; TCCR1B = 0x19; ICR1 = 15999; OCR1A = 3999;
TCCR2A = 0x42; TCCR2B = 0x05; OCR2A = 124;`,
    [
      ['pwm', 'PD6', 976.5625, 0.25],
      ['pwm', 'PD5', 976.5625, 0.75],
      ['pwm', 'PB1', 1000, 0.25],
      ['toggle', 'PB3', 500, 0.5],
    ],
  ),
  avr(
    'clearing and setting bits in steps, without semicolons at some ends',
    `TCCR1A = 0
TCCR1B = 0
TCCR1A |= (1 << COM1B1)
TCCR1A |= (1 << WGM11);
TCCR1B |= (1 << WGM13) | (1 << WGM12)
ICR1 = 1999;
OCR1B = 999
TCCR1B |= (1 << CS11);
DDRB |= 1 << 2;`,
    [['pwm', 'PB2', 1000, 0.5]],
  ),
  avr(
    'a table of registers as a debugger lists them',
    `DDRB    0x02
TCCR1A  0x82
TCCR1B: 0x1A
ICR1    0x4E1F
OCR1A   999`,
    [['pwm', 'PB1', 100, 0.05]],
  ),
  avr(
    'the clock divided by the program itself',
    `CLKPR = 0x80; CLKPR = 0x00;
DDRB = 2; TCCR1A = 0x82; TCCR1B = 0x19; ICR1 = 15999; OCR1A = 7999;`,
    [['pwm', 'PB1', 1000, 0.5]],
  ),
  avr(
    'addresses as numbers',
    `#define LAMP_DDR (*(volatile uint8_t *)0x24)
LAMP_DDR |= 2;
*(volatile uint8_t *)0x80 = 0x82;
_SFR_MEM8(0x81) = 0x19;
_SFR_MEM16(0x86) = 15999;
*(volatile uint16_t *) 0x88 = 7999;`,
    [['pwm', 'PB1', 1000, 0.5]],
  ),
  avr(
    'functions of which none is main, one that stops',
    `void pump_start(void) { TCCR1B |= _BV(CS10); }
void pump_init(void) { DDRB |= _BV(1); TCCR1A = 0x82; TCCR1B = 0x18; ICR1 = 799; OCR1A = 199; }
void pump_stop(void) { TCCR1A = 0; TCCR1B = 0; }
void pump_duty(uint16_t counts) { OCR1A = counts; }`,
    [['pwm', 'PB1', 20000, 0.25]],
  ),
  {
    name: 'PIC16F684, bit fields, the CCP in PWM',
    part: 'pic16f684',
    text: `void main(void) {
  TRISCbits.TRISC5 = 0;
  PR2 = 249;
  CCPR1L = 62;
  CCP1CON = 0b00001100;
  T2CONbits.T2CKPS0 = 1;
  T2CONbits.TMR2ON = 1;
  while (1);
}`,
    does: [['pwm', 'RC5', 5000, 0.248]],
  },
  {
    name: 'PIC18F4620, a global enable by its bits',
    part: 'pic18f4620',
    clock: { source: 'crystal', sourceHz: 10e6, settings: { osc: 4 } },
    text: `T2CON = 0x05; PR2 = 249; PIE1bits.TMR2IE = 1;
INTCONbits.PEIE = 1; INTCONbits.GIE = 1;`,
    does: [['interrupt', undefined, 10000]],
  },
  {
    name: 'STM32F401, structures and macros of its header',
    part: 'stm32f401',
    text: `int main(void)
{
    RCC->AHB1ENR |= RCC_AHB1ENR_GPIOAEN;
    RCC->APB1ENR |= RCC_APB1ENR_TIM2EN;
    GPIOA->MODER |= 2u << (5 * 2);
    GPIOA->AFR[0] |= 1u << (5 * 4);
    TIM2->PSC = 84 - 1;
    TIM2->ARR = 1000 - 1;
    TIM2->CCR1 = 250;
    TIM2->CCMR1 |= TIM_CCMR1_OC1M_2 | TIM_CCMR1_OC1M_1 | TIM_CCMR1_OC1PE;
    TIM2->CCER |= TIM_CCER_CC1E;
    TIM2->CR1 |= TIM_CR1_ARPE | TIM_CR1_CEN;
    for (;;) { __WFI(); }
}`,
    does: [['pwm', 'PA5', 1000, 0.25]],
  },
  {
    name: 'STM32F401, positions and masks, a reset of all before',
    part: 'stm32f401',
    text: `TIM3->CR1 = 0;
TIM3->PSC = 8399; TIM3->ARR = 9999;
TIM3->DIER |= (1U << TIM_DIER_UIE_Pos);
NVIC_EnableIRQ(TIM3_IRQn);
TIM3->CR1 |= TIM_CR1_CEN_Msk;
__enable_irq();`,
    does: [['interrupt', undefined, 1]],
  },
  {
    name: 'SAMD21G18, structures with .reg and .bit, names of values',
    part: 'samd21g18',
    text: `PM->APBCMASK.reg |= PM_APBCMASK_TC3;
PORT->Group[0].PINCFG[18].bit.PMUXEN = 1;
PORT->Group[0].PMUX[9].bit.PMUXE = 4;
TC3->COUNT16.CTRLA.reg |= TC_CTRLA_MODE_COUNT16 | TC_CTRLA_WAVEGEN_MFRQ | TC_CTRLA_PRESCALER_DIV64;
TC3->COUNT16.CC[0].reg = 374;
TC3->COUNT16.CTRLA.bit.ENABLE = 1;`,
    does: [['toggle', 'PA18', 999.424, 0.5]],
  },
  {
    name: 'MK20DX256, macros with arguments',
    part: 'mk20dx256',
    text: `PORTC->PCR[1] = PORT_PCR_MUX(4);
FTM0->SC = 0;
FTM0->MOD = 35999;
FTM0->CONTROLS[0].CnSC = FTM_CnSC_MSB_MASK | FTM_CnSC_ELSB_MASK;
FTM0->CONTROLS[0].CnV = 9000;
FTM0->SC = FTM_SC_CLKS(1) | FTM_SC_PS(0);`,
    does: [['pwm', 'PTC1', 1000, 0.25]],
  },
  {
    name: 'RP2040, a slice by the names of its library',
    part: 'rp2040',
    text: `io_bank0_hw->io[2].ctrl = 4;
pwm_hw->slice[1].div = 125 << 4;
pwm_hw->slice[1].top = 999;
pwm_hw->slice[1].cc = 250;
pwm_hw->slice[1].csr = PWM_CH1_CSR_EN_BITS;`,
    does: [['pwm', 'GPIO2', 1000, 0.25]],
  },
];
