'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Slider from '@mui/material/Slider';
import { useEffect, useEffectEvent } from 'react';
import type { Plan, PlanSignal } from '@herzschlag/core';
import { ask } from '../../worker/engine.ts';
import { usePlanContext } from '../frame/PlanContext.ts';
import { useStill } from '../hooks/useStill.ts';
import styles from './load.module.css';
import { useListen } from './useListen.ts';

/** How much is heard: of a tone, of a sequence from its start. */
const SECONDS = { steady: 2, sequence: 12 };

/** A new setting is heard once it has stood so long, in ms. */
const STILL_MS = 120;

/** Plays the computed waveform of a pin, its sequence too; follows changes while it plays. Escape stops it. */
export function Listen({ plan, signal }: { plan: Plan; signal: PlanSignal }) {
  const { report } = usePlanContext();
  const { on, play, stop, volume, setVolume } = useListen(report);
  const { id, sequence } = signal;
  const seconds = sequence ? SECONDS.sequence : SECONDS.steady;
  const settled = useStill(plan, STILL_MS);
  const start = (): void =>
    void play((rate) => ask((engine, key) => engine.heard(key(settled), id, seconds, rate)), false);
  const follow = useEffectEvent(() => {
    if (on) start();
  });
  useEffect(() => follow(), [settled]);
  return (
    <div className={styles.listen}>
      <ButtonBase aria-pressed={on} onClick={on ? stop : start}>
        {on ? '■ stop' : '▶ listen'}
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
      <span className="soft">{sequence ? `${seconds} s from the start` : on ? 'Escape stops it' : ''}</span>
    </div>
  );
}
