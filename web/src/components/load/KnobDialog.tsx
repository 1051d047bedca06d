'use client';

import { COLOUR } from '../../theme/colour.ts';
import Button from '@mui/material/Button';
import Slider from '@mui/material/Slider';
import { scaleLinear } from 'd3';
import { useMemo, useState } from 'react';
import {
  highestReading,
  isHeard,
  type Knob,
  type KnobReport,
  knobQuantities,
  knobText,
  type Plan,
  type PlanSignal,
  printHz,
  printNumber,
  printPercent,
  printSeconds,
  replacedSignal,
  type SignalEvaluation,
  withoutKey,
} from '@herzschlag/core';
import { useEngine } from '../../worker/useEngine.ts';
import { wavePath } from '../drawing/wave.ts';
import { unbroken } from '../text/unbroken.ts';
import { KnobCurve } from './KnobCurve.tsx';
import { KnobFields } from './KnobFields.tsx';
import { Listen } from './Listen.tsx';
import { SavePicture } from '../drawing/SavePicture.tsx';
import styles from './load.module.css';
import { LoadLens } from './LoadLens.tsx';
import { SheetDialog } from './SheetDialog.tsx';

/** Two periods of the pin as they are at the reading. */
function Wave({ outcome }: { outcome: SignalEvaluation }) {
  const periodS = 1 / outcome.frequencyHz;
  const x = scaleLinear([0, 2 * periodS], [1, 217]);
  return (
    <svg width={220} height={40} aria-hidden="true">
      <path
        d={wavePath({
          periodS,
          highS: outcome.duty * periodS,
          from: 0,
          to: 2 * periodS,
          x,
          level: (high) => (high ? 6 : 34),
        })}
        fill="none"
        stroke={COLOUR.pulse}
        strokeWidth={1.8}
      />
    </svg>
  );
}

function Figures({ report, knob }: { report: KnobReport; knob: Knob }) {
  const { outputs, coarsest, finest, worst, nervous, display } = report;
  return (
    <p className={styles.figures}>
      <span>
        <b>{printNumber(outputs)}</b> different outputs
      </span>
      <span>
        coarsest step <b>{printPercent(coarsest.share, 3)}</b> at {coarsest.reading}
      </span>
      <span>
        finest <b>{printPercent(finest.share, 2)}</b> at {finest.reading}
      </span>
      <span>
        off the curve by <b>{printPercent(worst.share, 2)}</b> at {worst.reading}
      </span>
      {nervous && (
        <span data-testid="nervous">
          noise moves it by <b>{printPercent(nervous.plain, 2)}</b> at {nervous.reading}
          {(knob.average ?? 1) > 1 && (
            <>
              , averaged <b>{printPercent(nervous.averaged, 2)}</b>
            </>
          )}
          {(knob.hysteresis ?? 0) > 0 && (
            <>
              , behind the hysteresis <b>{printPercent(nervous.steady, 2)}</b>
            </>
          )}
        </span>
      )}
      {display && (
        <span data-testid="display">
          display worst at {display.reading}: shows <b>{printNumber(display.shown, 4)}</b>, is{' '}
          <b>{printNumber(display.is, 4)}</b> {display.unit}
        </span>
      )}
    </p>
  );
}

/** The knob at one reading: what its pin does, what the load does, and how it sounds. */
function Turn({
  plan,
  signal,
  knob,
  reading,
  turn,
}: {
  plan: Plan;
  signal: PlanSignal;
  knob: Knob;
  reading: number;
  turn: (reading: number) => void;
}) {
  const { value: seen } = useEngine(
    ['knob at', plan, signal.id, JSON.stringify(knob), reading],
    (engine, key) => engine.knobAt(key(plan), signal.id, knob, reading),
    { keep: true },
  );
  const outcome = seen?.ok ? seen.value : undefined;
  const setting = outcome?.setting;
  const turned = useMemo(() => {
    return setting ? replacedSignal(plan, { ...withoutKey(signal, 'knob'), setting }) : plan;
  }, [plan, signal, setting]);
  return (
    <div className={styles.turn}>
      <div>
        <Slider
          aria-label="Reading of the knob"
          min={0}
          max={highestReading(knob)}
          value={reading}
          onChange={(_, value) => turn(value)}
          size="small"
        />
        <div className="soft" data-testid="knob-reading">
          {seen && !seen.ok
            ? seen.fault.sentence
            : outcome &&
              unbroken(
                `at ${printNumber(reading)}: ${printHz(outcome.frequencyHz, 5)}, high ${printPercent(outcome.duty, 4)} = ${printSeconds(outcome.duty / outcome.frequencyHz, 4)}`,
              )}
        </div>
      </div>
      {outcome && <Wave outcome={outcome} />}
      {outcome?.load && <LoadLens report={{ ...outcome.load, facts: [], advice: [] }} />}
      {outcome && isHeard(signal) && <Listen plan={turned} signal={signal} />}
    </div>
  );
}

/** A signal's knob, or the `first` one that it could have: its numbers, its curve over all readings, and what it does at one of them. */
export function KnobDialog({
  plan,
  signal,
  first,
  change,
  close,
}: {
  plan: Plan;
  signal: PlanSignal;
  first: Knob;
  change: (signal: PlanSignal) => Promise<Plan | undefined>;
  close: () => void;
}) {
  const [knob, setKnob] = useState<Knob>(first);
  const [reading, setReading] = useState(Math.floor(highestReading(knob) / 2));
  const [fault, setFault] = useState<string>();
  const take = (next: Knob): void => {
    setKnob(next);
    setReading(Math.min(reading, highestReading(next)));
    void change({ ...signal, knob: next });
  };
  const { value: report } = useEngine(
    ['knob', plan, signal.id, JSON.stringify(knob)],
    (engine, key) => engine.knob(key(plan), signal.id, knob),
    { keep: true },
  );
  return (
    <SheetDialog
      title={`Knob of ${signal.name}`}
      close={close}
      tools={
        signal.knob ? (
          <Button
            color="inherit"
            onClick={() => {
              void change(withoutKey(signal, 'knob'));
              close();
            }}
          >
            No knob
          </Button>
        ) : (
          <Button variant="contained" onClick={() => take(knob)}>
            Use this knob
          </Button>
        )
      }
    >
      <div className={styles.halves}>
        <div>
          <KnobFields knob={knob} take={take} fault={setFault} quantities={knobQuantities(signal)} />
          <p className={styles.fault} role="alert">
            {fault}
          </p>
        </div>
        <div data-pictured>
          {report && !report.ok && <p className={styles.sentence}>{report.fault.sentence}</p>}
          {report?.ok && (
            <>
              <KnobCurve knob={knob} report={report.value} reading={reading} />
              <p className={styles.sentence} data-testid="knob-sentence">
                {unbroken(report.value.sentence)} <SavePicture name="Knob curve" />
              </p>
              <Figures report={report.value} knob={knob} />
              <Turn plan={plan} signal={signal} knob={knob} reading={reading} turn={setReading} />
              <details>
                <summary className="soft">
                  The same arithmetic in C ({knobText(knob.sets, knob.from)} to {knobText(knob.sets, knob.to)}
                  )
                </summary>
                <pre className={styles.code} tabIndex={0}>
                  {report.value.code}
                </pre>
              </details>
            </>
          )}
        </div>
      </div>
    </SheetDialog>
  );
}
