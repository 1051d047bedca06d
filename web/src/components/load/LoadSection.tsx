'use client';

import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import { useState } from 'react';
import {
  firstKnob,
  firstReadings,
  isHeard,
  kindOf,
  type Load,
  loadsFor,
  type Plan,
  type PlanSignal,
  replacedSignal,
  type SignalEvaluation,
} from '@herzschlag/core';
import { usePlanContext } from '../frame/PlanContext.ts';
import { KnobDialog } from './KnobDialog.tsx';
import { Listen } from './Listen.tsx';
import { SavePicture } from '../drawing/SavePicture.tsx';
import styles from './load.module.css';
import { LoadDialog } from './LoadDialog.tsx';
import { LoadLens } from './LoadLens.tsx';
import { ReadingsDialog } from './ReadingsDialog.tsx';

/** How many loads are offered at once; all of them stand in the dialog. */
const OFFERED = 3;

/** The rate that a knob begins around where nothing is computed yet, in Hz. */
const USUAL_HZ = 1000;

type Open = 'load' | 'readings' | 'knob' | undefined;

/** Whether something can hang on what a signal does: it has a pin that is an output. */
export function takesLoad(signal: PlanSignal): boolean {
  return kindOf(signal).on === 'output';
}

/** What hangs on a signal's pin, and the ways to its load, its readings and its knob. */
export function LoadSection({
  plan,
  signal,
  outcome,
}: {
  plan: Plan;
  signal: PlanSignal;
  outcome: SignalEvaluation | undefined;
}) {
  const { commit } = usePlanContext();
  const [open, setOpen] = useState<Open>();
  const change = (next: PlanSignal): Promise<Plan | undefined> =>
    commit((before) => replacedSignal(before, next));
  const kinds = loadsFor(signal);
  const name = kinds.find(({ id }) => id === signal.load?.type)?.name;
  const take = (load: Load): void => void change({ ...signal, load });
  const sounds = isHeard(signal);
  const knob = signal.knob ?? firstKnob(signal, outcome?.frequencyHz ?? USUAL_HZ);
  const readings = signal.readings ?? firstReadings(signal);
  const close = (): void => setOpen(undefined);
  return (
    <section className={styles.section} aria-label="Load">
      <div className={styles.head}>
        <h2 className="label">Load</h2>
        {name !== undefined && <span className={styles.called}>{name}</span>}
        {outcome?.load && <SavePicture name="Load" />}
        <div className={styles.tools}>
          <ButtonBase
            className={styles.tool}
            onClick={() => setOpen('load')}
            data-set={signal.load !== undefined}
          >
            {signal.load ? 'change' : 'choose'}
          </ButtonBase>
          {readings && (
            <ButtonBase
              className={styles.tool}
              onClick={() => setOpen('readings')}
              data-set={signal.readings !== undefined}
            >
              readings
            </ButtonBase>
          )}
          {knob && (
            <ButtonBase
              className={styles.tool}
              onClick={() => setOpen('knob')}
              data-set={signal.knob !== undefined}
            >
              knob
            </ButtonBase>
          )}
        </div>
      </div>
      <div className={styles.scroll} tabIndex={0} role="region" aria-label="What the load does">
        {outcome?.load ? (
          <LoadLens report={outcome.load}>{sounds && <Listen plan={plan} signal={signal} />}</LoadLens>
        ) : (
          <>
            <p className="soft">
              What hangs on the pin? Its current, light, sound or movement follows from the waveform.
            </p>
            <div className={styles.choices}>
              {kinds.slice(0, OFFERED).map(({ id, name: called, starter }) => (
                <Button key={id} variant="quiet" onClick={() => take(starter)}>
                  {called}
                </Button>
              ))}
            </div>
            {sounds && outcome && <Listen plan={plan} signal={signal} />}
          </>
        )}
      </div>
      {open === 'load' && <LoadDialog plan={plan} signal={signal} change={change} close={close} />}
      {open === 'readings' && readings && (
        <ReadingsDialog signal={signal} first={readings} outcome={outcome} change={change} close={close} />
      )}
      {open === 'knob' && knob && (
        <KnobDialog plan={plan} signal={signal} first={knob} change={change} close={close} />
      )}
    </section>
  );
}
