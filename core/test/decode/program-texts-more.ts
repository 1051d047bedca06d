import type { Pasted } from './program-texts.ts';

const on =
  (part: string) =>
  (name: string, text: string, does: Pasted['does'], more: Partial<Pasted> = {}): Pasted => ({
    ...{ name: `${part}: ${name}`, part, text, does },
    ...more,
  });

const avr = on('atmega328p');
const mega = on('atmega2560');
const tiny = on('attiny85');
const pic = on('pic16f684');
const pic18 = on('pic18f4620');
const enhanced = on('pic16f18875');
const stm = on('stm32f401');
const pico = on('rp2040');
const sam = on('samd21g18');
const kinetis = on('mk20dx256');
const sitara = on('am3358');
const esp = on('esp32');
const pi = on('bcm2835');

const AT_40_MHZ = { clock: { source: 'crystal', sourceHz: 10e6, settings: { osc: 4 } } };
const AT_8_MHZ = { clock: { source: 'crystal', sourceHz: 8e6 } };

/** More programs as people write them: noise around the lines, wrong ones, every family in several styles. */
export const MORE_PROGRAMS: readonly Pasted[] = [
  avr(
    'a sketch with setup and loop, and prints between',
    `#include <avr/io.h>
const int ledPin = 9;
void setup() {
  Serial.begin(115200);
  pinMode(ledPin, OUTPUT);
  TCCR1A = (1 << COM1A1) | (1 << WGM11);
  TCCR1B = (1 << WGM13) | (1 << WGM12) | (1 << CS11);
  ICR1 = 39999;
  OCR1A = 2999;
}
void loop() { Serial.println(OCR1A); delay(10); }`,
    [['pwm', 'PB1', 50, 0.075]],
  ),
  avr(
    'two outputs of one timer, one of them inverted',
    `DDRD |= (1 << 6) | (1 << 5);
TCCR0A = (1 << COM0A1) | (1 << COM0B1) | (1 << COM0B0) | (1 << WGM01) | (1 << WGM00);
TCCR0B = (1 << CS01);
OCR0A = 127;
OCR0B = 63;`,
    [
      ['pwm', 'PD6', 7812.5, 0.5],
      ['pwm', 'PD5', 7812.5, 0.75],
    ],
  ),
  avr(
    'a tick by overflow in a free-running timer',
    `ISR(TIMER2_OVF_vect) { ticks++; }
int main(void) { TCCR2A = 0; TCCR2B = (1 << CS22) | (1 << CS20); TIMSK2 = (1 << TOIE2); sei(); for (;;); }`,
    // 16 MHz / 128 / 256.
    [['interrupt', undefined, 16e6 / 128 / 256]],
  ),
  avr(
    'phase-correct with the top in ICR1, an odd spacing',
    `  DDRB   = ( 1<<DDB1 ) ;
  TCCR1A = ( 1<<COM1A1 )|( 1<<WGM11 ) ;
  TCCR1B = ( 1<<WGM13 )|( 1<<CS10 ) ;
  ICR1   = 400 ;
  OCR1A  = 180 ;`,
    [['pwm', 'PB1', 20000, 0.45]],
  ),
  avr(
    'a constant with a name of a type, and hexadecimal masks',
    `static constexpr uint16_t kTop = 0x0FFF;
TCCR1A = 0b10000010; TCCR1B = 0b00011001;
ICR1 = kTop; OCR1A = kTop / 2;
DDRB = 0x02;`,
    [['pwm', 'PB1', 16e6 / 4096, 2048 / 4096]],
  ),
  avr(
    'a global table of numbers beside it, which says nothing',
    `const uint8_t wave[] = { 0, 10, 20, 30 };
uint8_t at = 0;
DDRD = 1 << 3;
TCCR2A = 0x23; TCCR2B = 0x09; OCR2A = 199; OCR2B = 49;`,
    [['pwm', 'PD3', 80000, 0.25]],
  ),
  avr(
    'wide registers by their halves, the upper one first',
    `DDRB = 2; TCCR1A = 0x82; TCCR1B = 0x1B;
ICR1H = 0x09; ICR1L = 0xC3;
OCR1AH = 0x02; OCR1AL = 0x70;`,
    // 16 MHz / 64 / 2500; 625 of 2500.
    [['pwm', 'PB1', 100, 0.25]],
  ),
  avr(
    'functions with arguments that are shifted into place',
    `void timer1_prescale(uint8_t cs) { TCCR1B = (TCCR1B & ~7) | (cs & 7); }
void timer1_top(uint16_t top) { ICR1 = top; }
int main(void) {
  DDRB |= 1 << 2;
  TCCR1A = (1 << COM1B1) | (1 << WGM11);
  TCCR1B = (1 << WGM13) | (1 << WGM12);
  timer1_top(9999);
  OCR1B = 999;
  timer1_prescale(3);
}`,
    [['pwm', 'PB2', 25, 0.1]],
  ),
  avr(
    'comments in a table, and a register that no part has',
    `TCCR0A = 0x83;   /* fast */
TCCR0B = 0x05;   /* / 1024 */
OCR0A  = 15;
DDRD   = 0x40;
TCCR9A = 0x01;   /* from another chip */`,
    [['pwm', 'PD6', 16e6 / 1024 / 256, 16 / 256]],
    { skips: 1 },
  ),
  avr(
    'a tick of 10 ms by ICR1, enabled at the input capture interrupt',
    `TCCR1B = (1 << WGM13) | (1 << WGM12) | (1 << CS11); ICR1 = 19999; TIMSK1 = (1 << ICIE1); sei();`,
    [['interrupt', undefined, 100]],
  ),
  avr(
    'bits by a structure of its own, and a register by bit operations in one line',
    `DDRB |= _BV(PB3); TCCR2A |= _BV(COM2A1) | _BV(WGM20); TCCR2A &= ~_BV(WGM21); TCCR2B |= _BV(CS21); OCR2A = 85;`,
    // Phase-correct, 16 MHz / 8 / 510, 85 of 255.
    [['pwm', 'PB3', 16e6 / 8 / 510, 85 / 255]],
  ),
  avr(
    'a string of statements on one line, without spaces',
    `DDRB=2;TCCR1A=130;TCCR1B=25;ICR1=1599;OCR1A=399;`,
    [['pwm', 'PB1', 10000, 0.25]],
  ),
  avr(
    'a do-while that runs once, and a return in the middle',
    `#define INIT() do { DDRB |= 2; TCCR1A = 0x82; TCCR1B = 0x19; } while (0)
int main(void) { INIT(); ICR1 = 799; OCR1A = 199; return 0; }`,
    [['pwm', 'PB1', 20000, 0.25]],
  ),
  avr(
    'a timer stopped by its last line',
    `DDRB = 2; TCCR1A = 0x82; TCCR1B = 0x19; ICR1 = 799; OCR1A = 199; TCCR1B = 0x18;`,
    [],
  ),
  mega(
    'a siren on Timer 1 and a lamp on Timer 0',
    `DDRB = (1 << PB5) | (1 << PB7);
TCCR1A = (1 << COM1A0); TCCR1B = (1 << WGM12) | (1 << CS11); OCR1A = 1135;
TCCR0A = 0x83; TCCR0B = 0x03; OCR0A = 25;`,
    [
      ['toggle', 'PB5', 16e6 / 8 / 1136 / 2, 0.5],
      ['pwm', 'PB7', 976.5625, 26 / 256],
    ],
  ),
  mega(
    'Timer 2 on its own prescaler of 32',
    `DDRH |= 1 << 6; TCCR2A = (1 << COM2B1) | (1 << WGM21) | (1 << WGM20); TCCR2B = (1 << WGM22) | (1 << CS21) | (1 << CS20); OCR2A = 99; OCR2B = 24;`,
    [['pwm', 'PH6', 5000, 0.25]],
  ),
  mega(
    'Timer 5 in 10 bits by macros with arguments',
    `#define OUT(port, bit) (DDR##port |= 1 << (bit))
DDRL |= 1 << 3;
TCCR5A = (1 << COM5A1) | (1 << WGM51) | (1 << WGM50);
TCCR5B = (1 << WGM52) | (1 << CS51);
OCR5A = 255;`,
    [['pwm', 'PL3', 16e6 / 8 / 1024, 0.25]],
  ),
  tiny(
    'a tone by Timer 1 cleared at its match',
    `DDRB |= 1 << PB1; TCCR1 = (1 << CTC1) | (1 << COM1A0) | (1 << CS12) | (1 << CS11); OCR1C = 249; OCR1A = 0;`,
    // 8 MHz / 32 / 250 / 2.
    [['toggle', 'PB1', 500, 0.5]],
  ),
  tiny(
    'a dimmed lamp on the second output of Timer 0',
    `DDRB = 0b10; TCCR0A = 0b00100011; TCCR0B = 0b001; OCR0B = 127;`,
    [['pwm', 'PB1', 31250, 0.5]],
  ),
  tiny(
    'a tick by Timer 0 in a handler of its own',
    `ISR(TIM0_COMPA_vect) { n++; }
void init(void) { TCCR0A = 1 << WGM01; TCCR0B = 3; OCR0A = 124; TIMSK |= 1 << OCIE0A; sei(); }`,
    // 8 MHz / 64 / 125.
    [['interrupt', undefined, 1000]],
  ),
  tiny(
    'PWM on one output of Timer 1, whose other one is left alone',
    `DDRB |= 1 << PB4; GTCCR = (1 << PWM1B) | (1 << COM1B1); TCCR1 = (1 << CS12); OCR1C = 99; OCR1B = 25;`,
    // 8 MHz / 8 / 100.
    [['pwm', 'PB4', 10000, 0.25]],
  ),
  tiny(
    'the same on the first output',
    `DDRB |= 1 << PB1; TCCR1 = (1 << PWM1A) | (1 << COM1A1) | (1 << CS11) | (1 << CS10); OCR1C = 199; OCR1A = 150;`,
    // 8 MHz / 4 / 200.
    [['pwm', 'PB1', 10000, 0.75]],
  ),
  pic(
    'PWM in the order of an old note',
    `PR2 = 0x63;          // period
CCPR1L = 0x32;       // half
TRISC5 = 0;
CCP1CON = 0x0C;      // PWM
T2CON = 0x05;        // on, / 4`,
    // 8 MHz / 4 / 4 / 100.
    [['pwm', 'RC5', 5000, 0.5]],
    AT_8_MHZ,
  ),
  pic(
    'the lower bits of the duty',
    `TRISC = 0; PR2 = 249; CCPR1L = 62; CCP1CON = 0x2C; T2CON = 0x04;`,
    // 8 MHz / 4 / 250; 62 x 4 + 2 of 1000.
    [['pwm', 'RC5', 8000, 0.25]],
    AT_8_MHZ,
  ),
  pic(
    'a tick by Timer 2 with its postscaler',
    `PR2 = 199; T2CON = 0x4D; PIE1bits.TMR2IE = 1; INTCON = 0xC0;`,
    // 8 MHz / 4 / 4 / 200 / 10.
    [['interrupt', undefined, 250]],
    AT_8_MHZ,
  ),
  pic18(
    'two duties by bytes, the oscillator times four',
    `TRISC = 0xF9; PR2 = 249; T2CON = 0x06; CCPR1L = 25; CCP1CON = 0x0C; CCPR2L = 200; CCP2CON = 0x0C;`,
    [
      ['pwm', 'RC2', 2500, 0.1],
      ['pwm', 'RC1', 2500, 0.8],
    ],
    AT_40_MHZ,
  ),
  pic18(
    'a tick by Timer 2, priorities left alone',
    `PR2 = 249; T2CON = 0x07; PIE1bits.TMR2IE = 1; INTCONbits.PEIE = 1; INTCONbits.GIE = 1;`,
    [['interrupt', undefined, 2500]],
    AT_40_MHZ,
  ),
  pic18(
    'Timer 1 cleared by the second CCP, its period in two bytes',
    `T3CON = 0x00; CCPR2H = 0xC3; CCPR2L = 0x4F; CCP2CON = 0x0B; T1CON = 0x11;
PIE2bits.CCP2IE = 1; INTCONbits.PEIE = 1; INTCONbits.GIE = 1;`,
    // 10 MHz / 2 / 50,000.
    [['interrupt', undefined, 100]],
    AT_40_MHZ,
  ),
  enhanced(
    'a PWM of its own block, the period in T2PR',
    `TRISC = 0; T2CLKCON = 0x01; T2PR = 99; CCPTMRS0 = 0x55; CCP1CON = 0x8C; CCPR1H = 0; CCPR1L = 100; RC2PPS = 9; T2CON = 0x80;`,
    // 32 MHz / 4 / 100; 100 of 400 quarters.
    [['pwm', 'RC2', 80000, 0.25]],
  ),
  stm(
    'a lamp at 2 Hz by TIM3 on PC6, all by structures',
    `RCC->AHB1ENR |= RCC_AHB1ENR_GPIOCEN; RCC->APB1ENR |= RCC_APB1ENR_TIM3EN;
GPIOC->MODER |= 2U << 12; GPIOC->AFR[0] |= 2U << 24;
TIM3->PSC = 8399; TIM3->ARR = 4999; TIM3->CCR1 = 500;
TIM3->CCMR1 = TIM_CCMR1_OC1M_1 | TIM_CCMR1_OC1M_2 | TIM_CCMR1_OC1PE;
TIM3->CCER = TIM_CCER_CC1E;
TIM3->CR1 = TIM_CR1_ARPE | TIM_CR1_CEN;`,
    [['pwm', 'PC6', 2, 0.1]],
  ),
  stm(
    'a function that takes the period',
    `static void buzzer(uint32_t hz) { TIM4->ARR = 84000000 / 84 / hz - 1; TIM4->CCR1 = (84000000 / 84 / hz) / 2; }
int main(void) {
  TIM4->PSC = 83;
  TIM4->CCMR1 = 0x68; TIM4->CCER = 1;
  GPIOB->MODER |= 2 << 12; GPIOB->AFR[0] |= 2 << 24;
  buzzer(2000);
  TIM4->CR1 = 0x81;
}`,
    [['pwm', 'PB6', 2000, 0.5]],
  ),
  stm(
    'four channels of one timer',
    `TIM5->PSC = 0; TIM5->ARR = 8399;
TIM5->CCR1 = 840; TIM5->CCR2 = 1680; TIM5->CCR3 = 4200; TIM5->CCR4 = 6300;
TIM5->CCMR1 = 0x6868; TIM5->CCMR2 = 0x6868; TIM5->CCER = 0x1111; TIM5->CR1 = 0x81;
GPIOA->MODER = 0xAA; GPIOA->AFR[0] = 0x2222;`,
    [
      ['pwm', 'PA0', 10000, 0.1],
      ['pwm', 'PA1', 10000, 0.2],
      ['pwm', 'PA2', 10000, 0.5],
      ['pwm', 'PA3', 10000, 0.75],
    ],
  ),
  stm(
    'a bridge with a dead time on TIM1',
    `TIM1->PSC = 0; TIM1->ARR = 4199; TIM1->CCR1 = 2100; TIM1->CCMR1 = 0x68; TIM1->CCER = 5; TIM1->BDTR = TIM_BDTR_MOE | 84; TIM1->CR1 = 0x81;
GPIOA->MODER = 2 << 16; GPIOA->AFR[1] = 1; GPIOB->MODER = 2 << 26; GPIOB->AFR[1] = 1 << 20;`,
    // The pulse is shorter by the dead time.
    [['pwm', 'PA8', 20000, 2016 / 4200]],
  ),
  stm(
    'a tick of TIM10 with the names of another library',
    `RCC->APB2ENR |= 1 << 17;
TIM10->PSC = 839; TIM10->ARR = 999; TIM10->DIER = TIM_DIER_UIE; NVIC->ISER[0] = 1 << 25; TIM10->CR1 = TIM_CR1_CEN;`,
    [['interrupt', undefined, 100]],
  ),
  pico(
    'a slice in phase-correct mode',
    `io_bank0_hw->io[4].ctrl = 4; pwm_hw->slice[2].div = 1 << 4; pwm_hw->slice[2].top = 3124; pwm_hw->slice[2].cc = 1406; pwm_hw->slice[2].csr = 3;`,
    // 125 MHz / 2 / 3125.
    [['pwm', 'GPIO4', 20000, 1406 / 3125]],
  ),
  pico(
    'definitions for pin and slice, and a function with both',
    `#define PIN 6
#define SLICE 3
static void pwm_begin(uint32_t top, uint32_t level) {
  pwm_hw->slice[SLICE].top = top;
  pwm_hw->slice[SLICE].cc = level;
  pwm_hw->slice[SLICE].div = 25 << 4;
  pwm_hw->slice[SLICE].csr = PWM_CH3_CSR_EN_BITS;
}
int main() { io_bank0_hw->io[PIN].ctrl = 4; pwm_begin(4999, 1250); }`,
    [['pwm', 'GPIO6', 1000, 0.25]],
  ),
  sam(
    'a TCC by its names, both outputs',
    `PM->APBCMASK.reg |= PM_APBCMASK_TCC1;
TCC1->WAVE.reg = TCC_WAVE_WAVEGEN_NPWM;
TCC1->PER.reg = 999; TCC1->CC[0].reg = 250; TCC1->CC[1].reg = 500;
PORT->Group[0].PINCFG[6].bit.PMUXEN = 1; PORT->Group[0].PMUX[3].bit.PMUXE = 4;
PORT->Group[0].PINCFG[7].bit.PMUXEN = 1; PORT->Group[0].PMUX[3].bit.PMUXO = 4;
TCC1->CTRLA.reg = TCC_CTRLA_PRESCALER_DIV4 | TCC_CTRLA_ENABLE;`,
    [
      ['pwm', 'PA06', 47972352 / 4 / 1000, 0.25],
      ['pwm', 'PA07', 47972352 / 4 / 1000, 0.5],
    ],
  ),
  sam(
    'a tick of a TC by its match',
    `PM->APBCMASK.reg |= PM_APBCMASK_TC3;
TC3->COUNT16.CTRLA.reg = TC_CTRLA_MODE_COUNT16 | TC_CTRLA_WAVEGEN_MFRQ | TC_CTRLA_PRESCALER_DIV16;
TC3->COUNT16.CC[0].reg = 2997;
TC3->COUNT16.INTENSET.reg = TC_INTENSET_OVF;
NVIC->ISER[0] = 1 << 18;
TC3->COUNT16.CTRLA.bit.ENABLE = 1;`,
    // Its first output is always on, and no pin has it.
    [
      ['interrupt', undefined, 47972352 / 16 / 2998],
      ['toggle', 'PA14', 47972352 / 16 / 2998 / 2, 0.5],
    ],
  ),
  kinetis(
    'two channels of FTM0 by masks',
    `PORTC->PCR[2] = PORT_PCR_MUX(4); PORTC->PCR[3] = PORT_PCR_MUX(4);
FTM0->MOD = 1799; FTM0->CONTROLS[1].CnSC = 0x28; FTM0->CONTROLS[1].CnV = 450; FTM0->CONTROLS[2].CnSC = 0x28; FTM0->CONTROLS[2].CnV = 900;
FTM0->SC = FTM_SC_CLKS(1);`,
    [
      ['pwm', 'PTC2', 20000, 0.25],
      ['pwm', 'PTC3', 20000, 0.5],
    ],
  ),
  kinetis(
    'a tick of the periodic timer',
    `SIM_SCGC6 |= SIM_SCGC6_PIT_MASK; PIT_MCR = 0; PIT_LDVAL0 = 35999; PIT_TCTRL0 = 3; NVIC_ISER2 = 1 << 4;`,
    [['interrupt', undefined, 1000]],
  ),
  sitara(
    'both outputs of a module',
    `EPWM0_TBPRD = 999; EPWM0_CMPA = 250; EPWM0_CMPB = 750; EPWM0_AQCTLA = 0x0012; EPWM0_AQCTLB = 0x0102; EPWM0_TBCTL = 0; CONF_GPIO0_2 = 3; CONF_GPIO0_3 = 3;`,
    [
      ['pwm', 'gpio0_2', 100000, 0.25],
      ['pwm', 'gpio0_3', 100000, 0.75],
    ],
  ),
  esp(
    'a channel at 5 kHz in 13 bits',
    `LEDC_HSTIMER0_CONF = (1 << 25) | (500 << 5) | 13; LEDC_HSCH0_HPOINT = 0; LEDC_HSCH0_DUTY = 4096 << 4; LEDC_HSCH0_CONF0 = 4; LEDC_HSCH0_CONF1 = 1u << 31; GPIO_FUNC18_OUT_SEL_CFG = 71;`,
    // 80 MHz / (500 / 256) / 8192.
    [['pwm', 'GPIO18', 5000, 0.5]],
  ),
  pi(
    'the second channel of the PWM, mark and space',
    `CM_PWMCTL = 0x5A000000 | 1; CM_PWMDIV = 0x5A000000 | (192 << 12); CM_PWMCTL = 0x5A000011; PWM_RNG2 = 1000; PWM_DAT2 = 100; PWM_CTL = 0x8100; GPFSEL1 = 2 << 27;`,
    // 19.2 MHz / 192 / 1000.
    [['pwm', 'GPIO19', 100, 0.1]],
  ),
  avr(
    'two programs pasted one after the other: the later one holds',
    `DDRB = 2; TCCR1A = 0x82; TCCR1B = 0x19; ICR1 = 15999; OCR1A = 7999;
// second try
DDRB = 2; TCCR1A = 0x82; TCCR1B = 0x1A; ICR1 = 1999; OCR1A = 499;`,
    [['pwm', 'PB1', 1000, 0.25]],
  ),
  avr(
    'a mask of a mask, and a shift by a definition',
    `#define BIT(n) (1u << (n))
#define FAST (BIT(WGM01) | BIT(WGM00))
#define CLEAR_A BIT(COM0A1)
TCCR0A = FAST | CLEAR_A; TCCR0B = BIT(CS02); OCR0A = 0x3F; DDRD = BIT(6);`,
    [['pwm', 'PD6', 244.140625, 0.25]],
  ),
  avr(
    'a comparison of an enumeration inside a condition at compile time',
    `#if F_CPU > 8000000UL
#define PS 2
#else
#define PS 1
#endif
DDRB = 2; TCCR1A = 0x82; TCCR1B = 0x18 | 2; ICR1 = 1999; OCR1A = 199;`,
    [['pwm', 'PB1', 1000, 0.1]],
  ),
  avr(
    'pin names for directions and a lamp on another port',
    `DDRC |= 1 << PC3; PORTC |= 1 << PC3; DDRD |= 1 << PD3; TCCR2A = (1 << COM2B1) | 3; TCCR2B = (1 << WGM22) | 4; OCR2A = 249; OCR2B = 62;`,
    [['pwm', 'PD3', 1000, 63 / 250]],
  ),
  avr(
    'a handler that toggles the pin of a counter that it does not load',
    `ISR(TIMER1_COMPA_vect) { PORTB ^= _BV(PB5); }
int main(void) { DDRB |= _BV(PB5); TCCR1B = _BV(WGM12) | _BV(CS12); OCR1A = 6249; TIMSK1 = _BV(OCIE1A); sei(); for (;;) {} }`,
    [['interrupt', undefined, 10]],
  ),
  avr(
    'a long preamble of a licence and of words that say nothing',
    `/*
 * Permission is granted to use this as you like.
 * TCCR1A = 0; this is only text
 */
#ifndef CLOCK_H
#define CLOCK_H
#include "board.h"
#endif
extern void board_init(void);
int main(void) { board_init(); DDRB = 8; TCCR2A = 0x83; TCCR2B = 1; OCR2A = 191; }`,
    [['pwm', 'PB3', 62500, 0.75]],
  ),
  avr(
    'lines of a patch, with their signs',
    `TCCR1A = 0x82;
TCCR1B = 0x19;
ICR1 = 319;
OCR1A = 79;
DDRB |= (1 << DDB1);
PRR &= ~(1 << PRTIM1);`,
    [['pwm', 'PB1', 50000, 0.25]],
    { skips: 1 },
  ),
  mega(
    'a tick and a tone that share nothing',
    `ISR(TIMER3_COMPA_vect) {}
TCCR3B = (1 << WGM32) | (1 << CS31); OCR3A = 1999; TIMSK3 = 1 << OCIE3A;
DDRL |= 1 << PL3; TCCR5A = 1 << COM5A0; TCCR5B = (1 << WGM52) | (1 << CS50); OCR5A = 18181;
sei();`,
    [
      ['interrupt', undefined, 1000],
      ['toggle', 'PL3', 16e6 / 18182 / 2, 0.5],
    ],
  ),
  stm(
    'up and down around the middle',
    `TIM4->PSC = 0; TIM4->ARR = 2100; TIM4->CCR2 = 525; TIM4->CCMR1 = 0x6800; TIM4->CCER = 0x10; TIM4->CR1 = TIM_CR1_ARPE | TIM_CR1_CMS_0 | TIM_CR1_CEN; GPIOB->MODER = 2 << 14; GPIOB->AFR[0] = 2 << 28;`,
    [['pwm', 'PB7', 20000, 0.25]],
  ),
  stm(
    'a tick by SysTick through the function of the core’s library',
    `SysTick->LOAD = 83999; SysTick->VAL = 0; SysTick->CTRL = 7;`,
    [['interrupt', undefined, 1000]],
  ),
  pico(
    'two slices of one program',
    `io_bank0_hw->io[8].ctrl = 4; io_bank0_hw->io[10].ctrl = 4;
pwm_hw->slice[4].div = 16; pwm_hw->slice[4].top = 4999; pwm_hw->slice[4].cc = 2000; pwm_hw->slice[4].csr = 1;
pwm_hw->slice[5].div = 125 << 4; pwm_hw->slice[5].top = 19999; pwm_hw->slice[5].cc = 1500; pwm_hw->slice[5].csr = 1;`,
    [
      ['pwm', 'GPIO8', 25000, 0.4],
      ['pwm', 'GPIO10', 50, 0.075],
    ],
  ),
  kinetis(
    'an output that its match toggles',
    `PORTC->PCR[1] = PORT_PCR_MUX(4); FTM0->MOD = 17999; FTM0->CONTROLS[0].CnSC = 0x14; FTM0->CONTROLS[0].CnV = 0; FTM0->SC = FTM_SC_CLKS(1);`,
    [['toggle', 'PTC1', 1000, 0.5]],
  ),
  pic(
    'Timer 0 by its overflow, all of its 256 counts',
    `OPTION_REG = 0x07; INTCON = 0xA0;`,
    // 8 MHz / 4 / 256 / 256.
    [['interrupt', undefined, 8e6 / 4 / 256 / 256]],
    AT_8_MHZ,
  ),
  sitara(
    'a general timer that reloads itself',
    `DMTIMER2_TLDR = 0xFFFFA240; DMTIMER2_TCRR = 0xFFFFA240; DMTIMER2_IRQENABLE_SET = 2; INTC_MIR_CLEAR2 = 1 << 4; DMTIMER2_TCLR = 3;`,
    // 24 MHz / 24,000.
    [['interrupt', undefined, 1000]],
  ),
  // Wrong ones: what they really do, not what was meant.
  avr(
    'one count too many in the top',
    `DDRB = 2; TCCR1A = 0x82; TCCR1B = 0x19; ICR1 = 16000; OCR1A = 8000;`,
    [['pwm', 'PB1', 16e6 / 16_001, 8001 / 16_001]],
  ),
  avr(
    'the upper bits of the mode forgotten, so that it is phase-correct in 9 bits',
    `DDRB = 2; TCCR1A = 0x82; TCCR1B = 0x01; ICR1 = 15999; OCR1A = 255;`,
    [['pwm', 'PB1', 16e6 / 1022, 255 / 511]],
  ),
  avr(
    'a division by 1024 where 256 was meant',
    `DDRB |= 2; TCCR1A = (1 << COM1A1) | (1 << WGM11); TCCR1B = (1 << WGM13) | (1 << WGM12) | (1 << CS12) | (1 << CS10); ICR1 = 62499; OCR1A = 6249;`,
    [['pwm', 'PB1', 0.25, 0.1]],
  ),
  avr(
    'the other output of the timer than the pin that is set up',
    `DDRB |= 1 << PB2; TCCR1A = (1 << COM1A1) | (1 << WGM11); TCCR1B = 0x19; ICR1 = 799; OCR1A = 199;`,
    [['pwm', 'PB1', 20000, 0.25]],
  ),
  stm(
    'a prescaler written without one less',
    `TIM3->PSC = 84; TIM3->ARR = 999; TIM3->CCR1 = 250; TIM3->CCMR1 = 0x68; TIM3->CCER = 1; TIM3->CR1 = 0x81; GPIOA->MODER = 2 << 12; GPIOA->AFR[0] = 2 << 24;`,
    [['pwm', 'PA6', 84e6 / 85 / 1000, 0.25]],
  ),
  pico(
    'a divider without its four bits of fraction',
    `io_bank0_hw->io[2].ctrl = 4; pwm_hw->slice[1].div = 125; pwm_hw->slice[1].top = 999; pwm_hw->slice[1].cc = 250; pwm_hw->slice[1].csr = 1;`,
    // 125 / 16 is 7.8125.
    [['pwm', 'GPIO2', 16000, 0.25]],
  ),
  kinetis(
    'a modulo of the whole count',
    `PORTC->PCR[1] = PORT_PCR_MUX(4); FTM0->MOD = 36000; FTM0->CONTROLS[0].CnSC = 0x28; FTM0->CONTROLS[0].CnV = 9000; FTM0->SC = FTM_SC_CLKS(1);`,
    [['pwm', 'PTC1', 36e6 / 36_001, 9000 / 36_001]],
  ),
];
