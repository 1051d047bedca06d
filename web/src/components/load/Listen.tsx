'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Slider from '@mui/material/Slider';
import { useEffect, useEffectEvent } from 'react';
import type { Plan, PlanSignal, Result } from '@herzschlag/core';
import { ask } from '../../worker/engine.ts';
import type { Sound } from '../../worker/calls/load.ts';
import { usePlanContext } from '../frame/PlanContext.ts';
import { useStill } from '../hooks/useStill.ts';
import styles from './load.module.css';
import { useListen } from './useListen.ts';

/** How much is heard: of a tone, of a sequence from its start. */
const SECONDS = { steady: 2, sequence: 12 };

/** A new setting is heard once it has stood so long, in ms. */
const STILL_MS = 120;

/** A button that plays a sound, its volume beside it. Escape stops it; while it plays it follows `of`. */
export function ListenButton({
  make,
  name = 'listen',
  of,
  note,
}: {
  make: (rate: number) => Promise<Result<Sound>>;
  name?: string;
  /** What the sound is made of: where it changes, the sound is made anew. */
  of: unknown;
  note: string;
}) {
  const { report } = usePlanContext();
  const { on, play, stop, volume, setVolume } = useListen(report);
  const start = (): void => void play(make);
  const follow = useEffectEvent(() => {
    if (on) start();
  });
  useEffect(() => follow(), [of]);
  return (
    <div className={styles.listen}>
      <ButtonBase aria-pressed={on} onClick={on ? stop : start}>
        {on ? '■ stop' : `▶ ${name}`}
      </ButtonBase>
      <Slider
        size="small"
        aria-label="Volume"
        sx={{ width: 80 }}
        min={0}
        max={1}
        step={0.05}
        value={volume}
        onChange={(_, value) => setVolume(value)}
      />
      <span className="soft">{on ? 'Escape stops it' : note}</span>
    </div>
  );
}

/** Plays the computed waveform of a pin, its sequence too. */
export function Listen({ plan, signal }: { plan: Plan; signal: PlanSignal }) {
  const { id, sequence } = signal;
  const seconds = sequence ? SECONDS.sequence : SECONDS.steady;
  const settled = useStill(plan, STILL_MS);
  return (
    <ListenButton
      make={(rate) => ask((engine, key) => engine.heard(key(settled), id, seconds, rate))}
      of={settled}
      note={sequence ? `${seconds} s from the start` : ''}
    />
  );
}
