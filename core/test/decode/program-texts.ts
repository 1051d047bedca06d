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
    'a clock that the program divides by 8',
    `CLKPR = (1 << CLKPCE); CLKPR = (1 << CLKPS1) | (1 << CLKPS0);
DDRB = 2; TCCR1A = 0x82; TCCR1B = 0x19; ICR1 = 15999; OCR1A = 7999;`,
    [['pwm', 'PB1', 125, 0.5]],
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
  avr(
    'a tick by a counter that its handler sets again',
    `#define START (65536 - 2500)
ISR(TIMER1_OVF_vect) { TCNT1 = START; PORTD ^= (1 << PD7); }
int main(void) {
  TCCR1A = 0; TCCR1B = (1 << CS11) | (1 << CS10);
  TCNT1 = START; TIMSK1 = 1 << TOIE1; sei();
  while (1) {}
}`,
    // 16 MHz / 64 / 2500.
    [['interrupt', undefined, 100]],
  ),
  avr(
    'a tick by a match that its handler moves on',
    `ISR(TIMER1_COMPA_vect) { OCR1A += 2000; ticks++; }
void setup(void) { TCCR1A = 0; TCCR1B = 1 << CS11; OCR1A = 2000; TIMSK1 = 1 << OCIE1A; sei(); }`,
    // 16 MHz / 8 / 2000.
    [['interrupt', undefined, 1000]],
  ),
  {
    name: 'PIC16F684, Timer 0 reloaded by the one handler of all',
    part: 'pic16f684',
    text: `void __interrupt() isr(void) { if (T0IF) { TMR0 = 6; T0IF = 0; ms++; } }
void main(void) {
  OPTION_REG = 0x01;
  INTCON = 0xA0;
  while (1) { }
}`,
    // 20 MHz / 4 / 4 / (250 + the one count that the two held cycles cost); what the way into the handler costs is said.
    does: [['interrupt', undefined, 1250000 / 251]],
  },
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
  avr(
    'a servo by a library of its own, values in microseconds',
    `#define US(us) ((us) * 2)
static const uint16_t frame = US(20000);
void servo_init(void) {
  DDRB = DDRB | (1 << DDB2);
  TCCR1A = (1 << COM1B1) | (1 << WGM11);
  TCCR1B = (1 << WGM13) | (1 << WGM12) | (1 << CS11);
  ICR1 = frame - 1;
  OCR1B = US(1500) - 1;
}`,
    [['pwm', 'PB2', 50, 0.075]],
  ),
  avr(
    'constants and a choice of the prescaler in steps',
    `const unsigned long f_cpu = 16000000UL;
enum { DIV1 = 1, DIV8, DIV64, DIV256, DIV1024 };
void carrier(void)
{
    unsigned char top = 16000000 / 38000 / 2 - 1;
    DDRB |= 1 << 3;
    TCCR2A = (1 << COM2A0) | (1 << WGM21);
    TCCR2B = DIV1;
    OCR2A = top;
}`,
    // 16 MHz / 2 / 210.
    [['toggle', 'PB3', 8e6 / 210, 0.5]],
  ),
  avr(
    'a start with all bits cleared by masks',
    `TCCR0A &= ~((1 << WGM00) | (1 << WGM01));
TCCR0A |= 0x83;
TCCR0B &= ~0x0F;
TCCR0B |= 0x02;
OCR0A = 0x7F;
DDRD |= 0x40;`,
    [['pwm', 'PD6', 7812.5, 0.5]],
  ),
  avr(
    'a pin as an output by a function of a library that is not there',
    `pinMode(9, OUTPUT);
noInterrupts();
TCCR1A = _BV(COM1A1) | _BV(WGM10);
TCCR1B = _BV(CS11) | _BV(CS10);
OCR1A = 51;
interrupts();`,
    // Phase-correct in 8 bits: 16 MHz / 64 / 510.
    [['pwm', 'PB1', 16e6 / 64 / 510, 51 / 255]],
  ),
  avr(
    'bits by functions of a library',
    `bitSet(DDRD, 3);
TCCR2A = 0x23; TCCR2B = 0x0B; OCR2A = 124; OCR2B = 24;
bitClear(TIMSK2, OCIE2A);`,
    [['pwm', 'PD3', 4000, 0.2]],
  ),
  avr(
    'comments everywhere, a wrong one among them',
    `/* 1 kHz, 50 % */ TCCR1A /* A */ = 0x82; // fast
TCCR1B = 0x19; /* mode 14
over two lines */ ICR1 = 15999; // top
/* OCR1A = 3; */ OCR1A = 7999;
// DDRB = 0;
DDRB = 2;`,
    [['pwm', 'PB1', 1000, 0.5]],
  ),
  avr(
    'lines that the compiler does not get',
    `#ifdef DEBUG
#endif
TCCR1A = 0x82; TCCR1B = 0x19; ICR1 = 15999; OCR1A = 3999;
asm volatile ("nop");
__builtin_avr_delay_cycles(1000);
DDRB = 2;`,
    [['pwm', 'PB1', 1000, 0.25]],
  ),
  avr(
    'functions that call others, in another order than they stand',
    `static void go(void);
static void pins(void) { DDRB |= 1 << PB1; }
static void timer(uint8_t prescaler_bits, uint16_t top, uint16_t high)
{
  TCCR1A = 0x82;
  TCCR1B = 0x18 | prescaler_bits;
  ICR1 = top; OCR1A = high;
}
int main(void) { pins(); go(); return 0; }
static void go(void) { timer(2, 999, 99); }`,
    [['pwm', 'PB1', 2000, 0.1]],
  ),
  avr(
    'a chain of assignments',
    `TCCR0A = TCCR2A = 0x83; TCCR0B = TCCR2B = 0x02;
OCR0A = OCR2A = 63; DDRD = 0x40; DDRB = 0x08;`,
    [
      ['pwm', 'PD6', 7812.5, 0.25],
      ['pwm', 'PB3', 7812.5, 0.25],
    ],
  ),
  avr(
    'a timer that is started and stopped again in the same breath, and a second one that runs',
    `void blink_on(void) { TCCR1B |= (1 << CS12); }
void blink_off(void) { TCCR1B &= ~(7); }
void blink_init(void) { DDRB = 2; TCCR1A = 1 << COM1A0; TCCR1B = 1 << WGM12; OCR1A = 31249; }`,
    [['toggle', 'PB1', 1, 0.5]],
  ),
  {
    name: 'ATmega2560, Timer 4 at 50 Hz',
    part: 'atmega2560',
    text: `DDRH |= (1 << PH3);
TCCR4A = (1 << COM4A1) | (1 << WGM41);
TCCR4B = (1 << WGM43) | (1 << WGM42) | (1 << CS41);
ICR4 = 39999; OCR4A = 2999;`,
    does: [['pwm', 'PH3', 50, 0.075]],
  },
  {
    name: 'ATmega2560, Timer 3 with three channels',
    part: 'atmega2560',
    text: `DDRE = 0x38; TCCR3A = 0xAA; TCCR3B = 0x19; ICR3 = 1599; OCR3A = 399; OCR3B = 799; OCR3C = 1199;`,
    does: [
      ['pwm', 'PE3', 10000, 0.25],
      ['pwm', 'PE4', 10000, 0.5],
      ['pwm', 'PE5', 10000, 0.75],
    ],
  },
  {
    name: 'ATtiny85, Timer 0 in fast mode',
    part: 'attiny85',
    text: `DDRB |= (1 << PB0); TCCR0A = (1 << COM0A1) | (1 << WGM01) | (1 << WGM00); TCCR0B = (1 << CS00); OCR0A = 63;`,
    does: [['pwm', 'PB0', 31250, 0.25]],
  },
  {
    name: 'PIC18F4620, both CCPs on Timer 2, bits by structures',
    part: 'pic18f4620',
    clock: { source: 'crystal', sourceHz: 10e6, settings: { osc: 4 } },
    text: `void main(void)
{
    TRISCbits.TRISC2 = 0; TRISCbits.TRISC1 = 0;
    PR2 = 0xF9;
    CCPR1L = 125; CCPR2L = 62;
    CCP1CON = 0x0C; CCP2CON = 0x0C;
    T2CONbits.T2CKPS1 = 1;
    T2CONbits.TMR2ON = 1;
    while (1) continue;
}`,
    does: [
      ['pwm', 'RC2', 2500, 0.5],
      ['pwm', 'RC1', 2500, 0.248],
    ],
  },
  {
    name: 'STM32F401, two channels and names of one library',
    part: 'stm32f401',
    text: `#define PERIOD 4199U
static void pwm_init(void)
{
    RCC->APB2ENR |= RCC_APB2ENR_TIM1EN;
    TIM1->PSC = 0U;
    TIM1->ARR = PERIOD;
    TIM1->CCMR1 = (6U << TIM_CCMR1_OC1M_Pos) | TIM_CCMR1_OC1PE | (6U << TIM_CCMR1_OC2M_Pos) | TIM_CCMR1_OC2PE;
    TIM1->CCR1 = (PERIOD + 1) / 4;
    TIM1->CCR2 = (PERIOD + 1) / 2;
    TIM1->CCER = TIM_CCER_CC1E | TIM_CCER_CC2E;
    TIM1->BDTR |= TIM_BDTR_MOE;
    TIM1->CR1 = TIM_CR1_ARPE | TIM_CR1_CEN;
}`,
    does: [
      ['pwm', 'PA8', 20000, 0.25],
      ['pwm', 'PA9', 20000, 0.5],
    ],
  },
  {
    name: 'STM32F401, plain names with underscores and whole numbers',
    part: 'stm32f401',
    text: `TIM4_PSC = 83; TIM4_ARR = 19999; TIM4_CCR1 = 1500; TIM4_CCMR1 = 0x0068; TIM4_CCER = 1; TIM4_CR1 = 0x0081;`,
    does: [['pwm', 'PB6', 50, 0.075]],
  },
  {
    name: 'SAMD21G18, a TCC in single slope by its macros',
    part: 'samd21g18',
    text: `TCC0->WAVE.reg = TCC_WAVE_WAVEGEN_NPWM;
TCC0->PER.reg = 2398;
TCC0->CC[0].reg = 600;
PORT->Group[0].PINCFG[8].bit.PMUXEN = 1; PORT->Group[0].PMUX[4].bit.PMUXE = 4;
TCC0->CTRLA.reg |= TCC_CTRLA_PRESCALER_DIV1 | TCC_CTRLA_ENABLE;`,
    does: [['pwm', 'PA08', 47972352 / 2399, 600 / 2399]],
  },
  {
    name: 'RP2040, plain names and numbers, in levels of a thousand',
    part: 'rp2040',
    text: `GPIO16_CTRL = 4; CH0_DIV = (125 << 4); CH0_TOP = 19999; CH0_CC = 1500; CH0_CSR = 1;`,
    does: [['pwm', 'GPIO16', 50, 0.075]],
  },
  {
    name: 'MK20DX256, numbers only',
    part: 'mk20dx256',
    text: `FTM1_SC = 0; FTM1_MOD = 0x8C9F; FTM1_C0SC = 0x28; FTM1_C0V = 0x4650; FTM1_SC = 0x08; PORTA_PCR12 = 0x300;`,
    does: [['pwm', 'PTA12', 1000, 0.5]],
  },
  {
    name: 'PIC16F684, a division whose lower bit does not matter',
    part: 'pic16f684',
    text: `TRISC = 0x1F; PR2 = 249; CCPR1L = 62; CCP1CON = 0x0C; T2CON = 0x07;`,
    does: [['pwm', 'RC5', 1250, 0.248]],
  },
  {
    name: 'AM3358, a divider of two in its other encoding',
    part: 'am3358',
    text: `EPWM0_TBPRD = 999; EPWM0_CMPA = 250; EPWM0_AQCTLA = 0x0012; EPWM0_TBCTL = 0x0080; CONF_GPIO3_14 = 1;`,
    does: [['pwm', 'gpio3_14', 50000, 0.25]],
  },
  {
    name: 'ESP32, a channel of the LED controller by its plain names',
    part: 'esp32',
    text: `LEDC_HSTIMER0_CONF = (1 << 25) | (625 << 5) | 15;
LEDC_HSCH0_HPOINT = 0;
LEDC_HSCH0_DUTY = 8192 << 4;
LEDC_HSCH0_CONF0 = 1 << 2;
LEDC_HSCH0_CONF1 = 0x80000000;
GPIO_FUNC18_OUT_SEL_CFG = 71;`,
    // 80 MHz / (625 / 256) / 32768.
    does: [['pwm', 'GPIO18', 1000, 0.25]],
  },
  {
    name: 'BCM2835, the PWM with a password in its clock',
    part: 'bcm2835',
    text: `#define PASSWORD 0x5A000000
CM_PWMCTL = PASSWORD | 0x01;
CM_PWMDIV = PASSWORD | (2 << 12);
CM_PWMCTL = PASSWORD | 0x11;
PWM_RNG1 = 9600;
PWM_DAT1 = 2400;
PWM_CTL = 0x81;
GPFSEL1 = 2 << 24;`,
    does: [['pwm', 'GPIO18', 1000, 0.25]],
  },
  {
    name: 'AM3358, an eCAP as a PWM',
    part: 'am3358',
    text: `ECAP0_CAP1 = 99999; ECAP0_CAP2 = 25000; ECAP0_ECCTL2 = 0x0290; CONF_GPIO0_7 = 0;`,
    does: [['pwm', 'gpio0_7', 1000, 0.25]],
  },
  {
    name: 'AM3358, up and down, addresses by a function of a library',
    part: 'am3358',
    text: `EPWM1_TBPRD = 2500; EPWM1_CMPA = 625; EPWM1_AQCTLA = (1 << 4) | (2 << 6) | 2; EPWM1_TBCTL = 2; CONF_GPIO1_18 = 6;`,
    does: [['pwm', 'gpio1_18', 20000, 0.25]],
  },
  avr(
    'hexadecimal all through, capital prefixes and suffixes',
    `DDRB = 0X02U; TCCR1A = 0X82UL; TCCR1B = 0X19; ICR1 = 0X3E7FU; OCR1A = 0XF9FUL;`,
    [['pwm', 'PB1', 1000, 0.25]],
  ),
  avr(
    'binary with separators',
    `DDRB = 0b0000_0010; TCCR1A = 0b1000_0010; TCCR1B = 0b0001_1001; ICR1 = 15999; OCR1A = 3999;`,
    [['pwm', 'PB1', 1000, 0.25]],
  ),
  avr(
    'casts and long expressions over several lines',
    `#define F_CPU 16000000UL
#define FREQ  250UL
int main(void) {
  DDRB |= (uint8_t)(1U << DDB1);
  TCCR1A = (uint8_t)(
      (1U << COM1A1) |
      (1U << WGM11));
  TCCR1B = (uint8_t)((1U << WGM13) | (1U << WGM12) | (1U << CS11));
  ICR1 = (uint16_t)(F_CPU / 8UL / FREQ - 1UL);
  OCR1A = (uint16_t)((F_CPU / 8UL / FREQ) / 4UL - 1UL);
}`,
    [['pwm', 'PB1', 250, 0.25]],
  ),
  avr(
    'a switch whose cases all set the same bits',
    `void init(void) { TCCR2A = 0x83; OCR2A = 127; DDRB = 8;
switch (speed) { case 1: TCCR2B = 4; break; }
}`,
    [['pwm', 'PB3', 976.5625, 0.5]],
  ),
  avr(
    'definitions that stand for places and bits',
    `#define BUZZER_DDR  DDRD
#define BUZZER_BIT  3
#define TONE_A      TCCR2A
#define TONE_TOP    OCR2A
void buzzer_init(void) {
  BUZZER_DDR |= (1 << BUZZER_BIT);
  TONE_A = (1 << COM2B0) | (1 << WGM21);
  TCCR2B = (1 << CS22);
  TONE_TOP = 62; OCR2B = 0;
}`,
    // 16 MHz / 64 / 63 / 2.
    [['toggle', 'PD3', 16e6 / 64 / 63 / 2, 0.5]],
  ),
  avr(
    'two functions for the start with the same work in either',
    `void timer0_setup(void) { TCCR0A = (1<<COM0A1)|(1<<WGM00); DDRD |= 1<<6; }
void timer0_start(void) { TCCR0B = (1<<CS01); OCR0A = 51; }`,
    // Phase-correct: 16 MHz / 8 / 510.
    [['pwm', 'PD6', 16e6 / 8 / 510, 0.2]],
  ),
  avr(
    'a class of another language around it',
    `class Fan {
 public:
  void begin() { DDRB |= 2; TCCR1A = 0x82; TCCR1B = 0x19; ICR1 = 639; OCR1A = 159; }
};
Fan fan;
DDRB |= 2; TCCR1A = 0x82; TCCR1B = 0x19; ICR1 = 639; OCR1A = 159;`,
    [['pwm', 'PB1', 25000, 0.25]],
  ),
  avr(
    'an error of syntax in the middle',
    `DDRB = 2; TCCR1A = 0x82;
TCCR1B = = 7;
TCCR1B = 0x19; ICR1 = 15999;
if (( { OCR1A = 1; }
OCR1A = 7999;`,
    [['pwm', 'PB1', 1000, 0.5]],
    { skips: 1 },
  ),
  avr(
    'nothing but a table with other words in it',
    `Register   Value
TCCR2A     0x83
TCCR2B     0x02
OCR2A      0x40
DDRB       0x08`,
    [['pwm', 'PB3', 7812.5, 65 / 256]],
  ),
  {
    name: 'ATmega2560, a tick by Timer 5 in a program with many functions',
    part: 'atmega2560',
    text: `volatile unsigned long ms;
ISR(TIMER5_COMPA_vect) { ++ms; }
static void clock_begin(void) { TCCR5B = _BV(WGM52) | _BV(CS51) | _BV(CS50); OCR5A = 249; TIMSK5 = _BV(OCIE5A); }
static void led_toggle(void) { PINB = 1 << PB7; }
int main(void) { clock_begin(); sei(); while (1) { if (ms > 500) { ms = 0; led_toggle(); } } }`,
    does: [['interrupt', undefined, 1000]],
  },
  {
    name: 'PIC16F18875, a CCP on Timer 2, bytes for the duty',
    part: 'pic16f18875',
    text: `TRISC = 0; T2CLKCON = 1; T2PR = 199; CCPTMRS0 = 0x55;
CCP1CON = 0x8C; CCPR1H = 0x01; CCPR1L = 0x90; RC2PPS = 9; T2CON = 0x80;`,
    // 32 MHz / 4 / 200; 400 of 800 quarters.
    does: [['pwm', 'RC2', 40000, 0.5]],
  },
  {
    name: 'STM32F401, a tick by SysTick',
    part: 'stm32f401',
    text: `SYST_RVR = 84000 - 1; SYST_CVR = 0; SYST_CSR = 7;`,
    does: [['interrupt', undefined, 1000]],
  },
  {
    name: 'STM32F401, a channel toggled by its match',
    part: 'stm32f401',
    text: `TIM3->PSC = 8399; TIM3->ARR = 4999; TIM3->CCMR1 = 3 << 4; TIM3->CCER = 1; TIM3->CR1 = TIM_CR1_ARPE | TIM_CR1_CEN;`,
    does: [['toggle', 'PA6', 1, 0.5]],
  },
  {
    name: 'RP2040, a fraction of sixteenths and both outputs of a slice',
    part: 'rp2040',
    text: `pwm_hw->slice[0].div = (2 << 4) | 8; pwm_hw->slice[0].top = 999;
pwm_hw->slice[0].cc = (500 << 16) | 250; pwm_hw->slice[0].csr = 1;
io_bank0_hw->io[0].ctrl = 4; io_bank0_hw->io[1].ctrl = 4;`,
    does: [
      ['pwm', 'GPIO0', 50000, 0.25],
      ['pwm', 'GPIO1', 50000, 0.5],
    ],
  },
  {
    name: 'MK20DX256, center-aligned with a prescaler',
    part: 'mk20dx256',
    text: `FTM2->SC = FTM_SC_CPWMS_MASK | FTM_SC_CLKS(1) | FTM_SC_PS(2);
FTM2->MOD = 4500; FTM2->CONTROLS[1].CnSC = 0x28; FTM2->CONTROLS[1].CnV = 1125; PORTB->PCR[19] = PORT_PCR_MUX(3);`,
    // 36 MHz / 4 / 9000.
    does: [['pwm', 'PTB19', 1000, 0.25]],
  },
];
