'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { useState } from 'react';
import {
  type FigureId,
  type Plan,
  type SignalEvaluation,
  printHz,
  printNumber,
  printPercent,
  printPpm,
  printSeconds,
} from '@herzschlag/core';
import { Panel } from '../../components/frame/Panel.tsx';
import { useEngine } from '../../worker/useEngine.ts';
import styles from './fit.module.css';

/** A figure as it is shown: the large number, what it is of, and what explains it. */
type Shown = { id: FigureId; text: string; of: string; testId?: string };

function inputFigures({ errorPpm = 0, bits, steps, stepS, cpu, frequencyHz }: SignalEvaluation): Shown[] {
  return [
    {
      id: 'error',
      text: printPpm(errorPpm).replace('+', ''),
      of: 'one count at the fastest input',
      testId: 'error',
    },
    {
      id: 'resolution',
      text: `${printNumber(bits, 4)} bit`,
      of: `${printNumber(steps)} counts of ${printSeconds(stepS, 4)}`,
    },
    { id: 'frequency', text: printHz(frequencyHz, 4), of: 'slowest input' },
    { id: 'cpu', text: printPercent(Math.min(1, cpu), 3), of: 'of the CPU', testId: 'cpu' },
  ];
}

/** What stands for the resolution of a pin that has only one duty. */
function onlyHalf({ frequencyHz, jitterS, place }: SignalEvaluation): Shown {
  return place.pin === undefined
    ? {
        id: 'jitter',
        text: printSeconds(1 / frequencyHz, 4),
        of: `±${printSeconds(jitterS, 3)} by the instruction being executed`,
      }
    : { id: 'frequency', text: '½', of: 'high for half of each period' };
}

function shownFigures(outcome: SignalEvaluation): Shown[] {
  if (outcome.place.cause === 'input') return inputFigures(outcome);
  const { errorPpm, bits, steps, stepS, reach, cpu } = outcome;
  const half = outcome.place.duty === 'half';
  return [
    errorPpm === undefined
      ? { id: 'frequency', text: printHz(outcome.frequencyHz), of: 'at the pin', testId: 'error' }
      : { id: 'error', text: printPpm(errorPpm), of: 'from the target', testId: 'error' },
    half
      ? onlyHalf(outcome)
      : {
          id: 'resolution',
          text: `${printNumber(bits, 4)} bit`,
          of: `${printNumber(steps)} steps of ${printSeconds(stepS, 4)}`,
        },
    ...(half
      ? []
      : [
          {
            id: 'reach' as const,
            text: `${printNumber(reach.min * 100, 2)} … ${printNumber(reach.max * 100, 4)} %`,
            of: 'duty range',
          },
        ]),
    {
      id: 'cpu',
      text: cpu === 0 ? '0 %' : printPercent(Math.min(1, cpu), 3),
      of: 'of the CPU',
      testId: 'cpu',
    },
  ];
}

/** How a figure is calculated; the frequency's formula stands with its error, which follows from it. */
function Explanation({ plan, outcome, id }: { plan: Plan; outcome: SignalEvaluation; id: FigureId }) {
  const { value } = useEngine(['explain', plan, outcome], (engine, key) =>
    engine.explain(key(plan), outcome),
  );
  const wanted: readonly FigureId[] =
    id === 'error' ? ['frequency', 'error'] : id === 'resolution' ? ['resolution', 'duty'] : [id];
  const shown = value?.filter((one) => wanted.includes(one.id)) ?? [];
  return (
    <div className={styles.explained} data-testid="explained">
      {shown.map(({ id: own, formula, numbers, from }) => (
        <section key={own}>
          <p className="serif">{formula}</p>
          <p className="mono">{numbers}</p>
          <ul>
            {from.map((source) => (
              <li key={source}>{source}</li>
            ))}
          </ul>
        </section>
      ))}
    </div>
  );
}

/** The figures of a setting; each explains itself when it is pressed. */
export function Figures({ plan, outcome }: { plan: Plan; outcome: SignalEvaluation }) {
  const [open, setOpen] = useState<{ id: FigureId; button: HTMLElement }>();
  return (
    <div className={styles.figures}>
      {shownFigures(outcome).map(({ id, text, of, testId }) => (
        <ButtonBase
          key={of}
          className={styles.figureButton}
          aria-haspopup="dialog"
          title="how this is calculated"
          onClick={(event) => setOpen({ id, button: event.currentTarget })}
        >
          <span className={styles.figure} {...(testId ? { 'data-testid': testId } : {})}>
            {text}
          </span>
          <small>{of}</small>
        </ButtonBase>
      ))}
      <Panel button={open?.button} name="How this figure is calculated" close={() => setOpen(undefined)}>
        {open && <Explanation plan={plan} outcome={outcome} id={open.id} />}
      </Panel>
    </div>
  );
}
