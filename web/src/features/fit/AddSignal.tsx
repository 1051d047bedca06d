'use client';

import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { type KindAndTarget, type PlanSignal, freeId, freeName, withoutSignal } from '@herzschlag/core';
import { core } from '../../worker/core.ts';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import styles from './fit.module.css';

type Starter = { text: string; name: string; aim: KindAndTarget };

const STARTERS: readonly Starter[] = [
  {
    text: 'a lamp that blinks once a second',
    name: 'Lamp',
    aim: { kind: 'blink', target: { frequencyHz: 1, duty: 0.5 } },
  },
  {
    text: 'a buzzer that sounds at A4',
    name: 'Buzzer',
    aim: { kind: 'tone', target: { note: 'A4', toleranceCents: 5 } },
  },
  {
    text: 'a light that dims in 250 steps',
    name: 'Light',
    aim: { kind: 'dim', target: { minHz: 200, minSteps: 250, duty: 0.5 } },
  },
  {
    text: 'a servo with pulses of 0.9 to 2.1 ms',
    name: 'Servo',
    aim: { kind: 'pulse', target: { frameHz: 50, widthS: 0.0015, minS: 0.0009, maxS: 0.0021 } },
  },
  {
    text: 'a strobe from 8 to 90 Hz',
    name: 'Strobe',
    aim: { kind: 'strobe', target: { minHz: 8, maxHz: 90, onS: 0.0005 } },
  },
  {
    text: 'a level of 1.1 V behind a filter',
    name: 'Level',
    aim: { kind: 'level', target: { volts: 1.1, supplyV: 3.3, toleranceV: 0.01, minHz: 20000 } },
  },
  {
    text: 'a string of 60 addressable LEDs',
    name: 'String',
    aim: {
      kind: 'string',
      target: { bitS: 0.00000125, zeroS: 0.0000004, oneS: 0.0000008, leds: 60 },
    },
  },
  {
    text: 'a tick of a millisecond for the program',
    name: 'Tick',
    aim: { kind: 'tick', target: { frequencyHz: 1000 } },
  },
  {
    text: 'an input of 1 to 200 Hz to measure',
    name: 'Input',
    aim: { kind: 'measure', target: { minHz: 1, maxHz: 200, resolution: 0.005 } },
  },
];

/** Adds a signal from a starting point; its sentence is edited from there. Also removes the one that is shown. */
export function AddSignal({ wide = false }: { wide?: boolean }) {
  const { plan, signal: open, change, showSignal, report } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();

  const add = (starter: Starter) => {
    setAnchor(undefined);
    const names = plan.signals.map((one) => one.name);
    const name = freeName(starter.name, names);
    const id = freeId(plan, starter.name);
    const signal: PlanSignal = { id, name, ...starter.aim };
    core()
      .best({ ...plan, signals: [...plan.signals, signal] }, signal, 'cpu')
      .then((setting) => {
        const settled = setting ? { ...signal, setting } : signal;
        change((now) => ({ ...now, signals: [...now.signals, settled] }));
        showSignal(id);
      })
      .catch((error: unknown) => report(String(error)));
  };

  const remove = () => {
    setAnchor(undefined);
    change((now) => withoutSignal(now, open?.id));
  };

  return (
    <>
      {wide ? (
        <Button variant="contained" onClick={(event) => setAnchor(event.currentTarget)}>
          Add a signal
        </Button>
      ) : (
        <button
          type="button"
          className={`plain ${styles.tab}`}
          aria-haspopup="menu"
          onClick={(event) => setAnchor(event.currentTarget)}
        >
          + signal
        </button>
      )}
      <Menu open={anchor !== undefined} anchorEl={anchor ?? null} onClose={() => setAnchor(undefined)}>
        {STARTERS.map((starter) => (
          <MenuItem key={starter.text} onClick={() => add(starter)}>
            {starter.text}
          </MenuItem>
        ))}
        {open && !wide && (
          <MenuItem onClick={remove} sx={{ borderTop: '1px solid var(--hair)' }}>
            remove {open.name}
          </MenuItem>
        )}
      </Menu>
    </>
  );
}
