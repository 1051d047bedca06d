'use client';

import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import type { Aim } from '@herzschlag/core/target/signal.ts';
import { useBench } from '../../frame/PlanContext.ts';
import styles from './fit.module.css';

type Starter = { text: string; name: string; aim: Aim };

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
];

function freeName(name: string, taken: readonly string[]): string {
  if (!taken.includes(name)) return name;
  for (let n = 2; ; n += 1) if (!taken.includes(`${name} ${n}`)) return `${name} ${n}`;
}

/** Adds a signal from a starting point; its sentence is edited from there. Also removes the one that is shown. */
export function AddSignal({ wide = false }: { wide?: boolean }) {
  const { plan, signal, change, showSignal } = useBench();
  const [anchor, setAnchor] = useState<HTMLElement>();

  const add = (starter: Starter) => {
    setAnchor(undefined);
    const names = plan.signals.map((one) => one.name);
    const ids = plan.signals.map((one) => one.id);
    const name = freeName(starter.name, names);
    const id = freeName(starter.name.toLowerCase(), ids).replace(' ', '-');
    change((now) => ({ ...now, signals: [...now.signals, { id, name, ...starter.aim }] }));
    showSignal(id);
  };

  const remove = () => {
    setAnchor(undefined);
    change((now) => ({ ...now, signals: now.signals.filter((one) => one.id !== signal?.id) }));
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
        {signal && !wide && (
          <MenuItem onClick={remove} sx={{ borderTop: '1px solid var(--hair)' }}>
            remove {signal.name}
          </MenuItem>
        )}
      </Menu>
    </>
  );
}
