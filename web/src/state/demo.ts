import { laneColour } from '../theme/colour.ts';
import buoy from '../../../examples/harbour-buoy.plan.json';
import greenhouse from '../../../examples/greenhouse.plan.json';
import cabin from '../../../examples/signal-cabin.plan.json';
import gauge from '../../../examples/tide-gauge.plan.json';
import tower from '../../../examples/tower-clock.plan.json';

/** The demo plans that come with the product: the text of their files, and what the start page says of them. */
export const DEMOS = [
  {
    id: 'greenhouse',
    name: greenhouse.name,
    text: JSON.stringify(greenhouse),
    about:
      'A frost alarm that sounds, a status LED and a mist pump that share a timer, a grow light that dims, on an ATmega328P at 16\u00a0MHz.',
    wave: { periods: 6, duty: 0.1, colour: laneColour(1) },
  },
  {
    id: 'harbour-buoy',
    name: buoy.name,
    text: JSON.stringify(buoy),
    about:
      'A lantern with a flash, a fog signal, a chart lamp that dims, a lens shutter on a servo, an anemometer to measure and a housekeeping tick, on an STM32F401 at 84\u00a0MHz.',
    wave: { periods: 10, duty: 0.35, colour: laneColour(0) },
  },
  {
    id: 'tower-clock',
    name: tower.name,
    text: JSON.stringify(tower),
    about:
      'A hammer that strikes three times a minute, a dial lamp that fades, a chime and a strobe on the pendulum, on a SAMD21G18 at 48\u00a0MHz.',
    wave: { periods: 3, duty: 0.5, colour: laneColour(3) },
  },
  {
    id: 'signal-cabin',
    name: cabin.name,
    text: JSON.stringify(cabin),
    about:
      'Interrupts that wait for each other: three rates from one tick, a lamp switched by two interrupts, LEDs beside a receiver, on an ATmega328P at 16\u00a0MHz.',
    wave: { periods: 8, duty: 0.2, colour: laneColour(2) },
  },
  {
    id: 'tide-gauge',
    name: gauge.name,
    text: JSON.stringify(gauge),
    about:
      'A counter that its interrupt reloads nine counts late, and a contact that closes twice while interrupts are off and is counted once, on a PIC16F684 at 8\u00a0MHz.',
    wave: { periods: 5, duty: 0.5, colour: laneColour(4) },
  },
] as const;
