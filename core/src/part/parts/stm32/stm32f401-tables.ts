/** What the timers differ in: base address, width, bus, enable bit, channels, and whether they count down too. */
export type Own = {
  id: string;
  base: number;
  width: number;
  bus: 1 | 2;
  enable: number;
  channels: number;
  center: boolean;
  /** The interrupt of all its events, and that of its matches where they have one of their own. */
  vector: [string, number];
  matches?: [string, number];
};

export const TIMERS: readonly Own[] = [
  {
    id: 'TIM1',
    base: 0x40010000,
    width: 16,
    bus: 2,
    enable: 0,
    channels: 4,
    center: true,
    vector: ['TIM1_UP_TIM10', 25],
    matches: ['TIM1_CC', 27],
  },
  {
    id: 'TIM2',
    base: 0x40000000,
    width: 32,
    bus: 1,
    enable: 0,
    channels: 4,
    center: true,
    vector: ['TIM2', 28],
  },
  {
    id: 'TIM3',
    base: 0x40000400,
    width: 16,
    bus: 1,
    enable: 1,
    channels: 4,
    center: true,
    vector: ['TIM3', 29],
  },
  {
    id: 'TIM4',
    base: 0x40000800,
    width: 16,
    bus: 1,
    enable: 2,
    channels: 4,
    center: true,
    vector: ['TIM4', 30],
  },
  {
    id: 'TIM5',
    base: 0x40000c00,
    width: 32,
    bus: 1,
    enable: 3,
    channels: 4,
    center: true,
    vector: ['TIM5', 50],
  },
  {
    id: 'TIM9',
    base: 0x40014000,
    width: 16,
    bus: 2,
    enable: 16,
    channels: 2,
    center: false,
    vector: ['TIM1_BRK_TIM9', 24],
  },
  {
    id: 'TIM10',
    base: 0x40014400,
    width: 16,
    bus: 2,
    enable: 17,
    channels: 1,
    center: false,
    vector: ['TIM1_UP_TIM10', 25],
  },
  {
    id: 'TIM11',
    base: 0x40014800,
    width: 16,
    bus: 2,
    enable: 18,
    channels: 1,
    center: false,
    vector: ['TIM1_TRG_COM_TIM11', 26],
  },
];

/** The timer with complementary outputs and a main output switch. */
export const ADVANCED = 'TIM1';

/** Pins by what comes out there: [pin, place on the 64-pin package, alternate functions as [code, timer channel]]. */
export const PINS: readonly (readonly [string, number, ...(readonly [number, string])[]])[] = [
  ['PA0', 14, [1, 'TIM2_CH1'], [2, 'TIM5_CH1']],
  ['PA1', 15, [1, 'TIM2_CH2'], [2, 'TIM5_CH2']],
  ['PA2', 16, [1, 'TIM2_CH3'], [2, 'TIM5_CH3'], [3, 'TIM9_CH1']],
  ['PA3', 17, [1, 'TIM2_CH4'], [2, 'TIM5_CH4'], [3, 'TIM9_CH2']],
  ['PA4', 20],
  ['PA5', 21, [1, 'TIM2_CH1']],
  ['PA6', 22, [2, 'TIM3_CH1']],
  ['PA7', 23, [1, 'TIM1_CH1N'], [2, 'TIM3_CH2']],
  ['PA8', 41, [1, 'TIM1_CH1']],
  ['PA9', 42, [1, 'TIM1_CH2']],
  ['PA10', 43, [1, 'TIM1_CH3']],
  ['PA11', 44, [1, 'TIM1_CH4']],
  ['PA12', 45],
  ['PA15', 50, [1, 'TIM2_CH1']],
  ['PB0', 26, [1, 'TIM1_CH2N'], [2, 'TIM3_CH3']],
  ['PB1', 27, [1, 'TIM1_CH3N'], [2, 'TIM3_CH4']],
  ['PB2', 28],
  ['PB3', 55, [1, 'TIM2_CH2']],
  ['PB4', 56, [2, 'TIM3_CH1']],
  ['PB5', 57, [2, 'TIM3_CH2']],
  ['PB6', 58, [2, 'TIM4_CH1']],
  ['PB7', 59, [2, 'TIM4_CH2']],
  ['PB8', 61, [2, 'TIM4_CH3'], [3, 'TIM10_CH1']],
  ['PB9', 62, [2, 'TIM4_CH4'], [3, 'TIM11_CH1']],
  ['PB10', 29, [1, 'TIM2_CH3']],
  ['PB12', 33],
  ['PB13', 34, [1, 'TIM1_CH1N']],
  ['PB14', 35, [1, 'TIM1_CH2N']],
  ['PB15', 36, [1, 'TIM1_CH3N']],
  ['PC0', 8],
  ['PC1', 9],
  ['PC2', 10],
  ['PC3', 11],
  ['PC4', 24],
  ['PC5', 25],
  ['PC6', 37, [2, 'TIM3_CH1']],
  ['PC7', 38, [2, 'TIM3_CH2']],
  ['PC8', 39, [2, 'TIM3_CH3']],
  ['PC9', 40, [2, 'TIM3_CH4']],
  ['PC10', 51],
  ['PC11', 52],
  ['PC12', 53],
  ['PC13', 2],
];
