'use client';

import {
  failed,
  fieldText,
  type Knob,
  type KnobQuantity,
  type NumberField,
  parseField,
  succeeded,
  type Result,
} from '@herzschlag/core';
import { ChoiceBox } from '../fields/ChoiceBox.tsx';
import { FieldBox } from './FieldBox.tsx';
import styles from './load.module.css';

const DIMENSION: Record<KnobQuantity, NumberField['dimension']> = {
  frequency: 'frequency',
  period: 'time',
  width: 'time',
  duty: 'duty',
  level: 'volts',
};

const NUMBER = { dimension: 'number', min: 0, max: 1e12 } as const;

function whole(text: string): Result<number> {
  const read = Number(text.trim());
  return /^\d{1,5}$/.test(text.trim()) && read <= 65_535
    ? succeeded(read)
    : failed('Enter a whole number of counts from 0 to 65,535.');
}

type Props = { knob: Knob; take: (knob: Knob) => void; fault: (sentence: string | undefined) => void };

/** Reads an end of the knob: zero is an end of a frequency too, which the report refuses with its reason. */
function readEnd(knob: Knob, text: string): Result<number> {
  if (/^0(?:[.,]0+)?\s*(?:Hz|s|ms|V|%)?$/.test(text.trim())) return succeeded(0);
  const read = parseField(
    { label: 'end of the knob', dimension: DIMENSION[knob.sets], min: 0, max: 1e12 },
    text,
  );
  if (!read.ok) return read;
  return read.value === undefined ? failed('Enter a value.') : succeeded(read.value);
}

function Choice<K extends 'sets' | 'bits' | 'curve' | 'wide' | 'first' | 'average'>({
  name,
  label,
  choices,
  knob,
  take,
}: {
  name: K;
  label: string;
  choices: readonly (readonly [Knob[K], string])[];
  knob: Knob;
  take: (knob: Knob) => void;
}) {
  const value = knob[name] ?? choices[0]?.[0];
  return (
    <>
      <span className={styles.name}>{label}</span>
      <ChoiceBox
        label={label}
        className={styles.box ?? ''}
        value={String(value)}
        take={(text) => {
          const chosen = choices.find(([one]) => String(one) === text)?.[0];
          if (chosen !== undefined) take({ ...knob, [name]: chosen });
        }}
      >
        {choices.map(([one, text]) => (
          <option key={text} value={String(one)}>
            {text}
          </option>
        ))}
      </ChoiceBox>
    </>
  );
}

function Counts({
  name,
  label,
  knob,
  take,
  fault,
}: Props & { name: 'deadLow' | 'deadHigh' | 'noise' | 'hysteresis'; label: string }) {
  return (
    <>
      <span className={styles.name}>{label}</span>
      <FieldBox
        label={label}
        text={String(knob[name] ?? 0)}
        read={whole}
        take={(value) => take({ ...knob, [name]: value })}
        fault={fault}
      />
    </>
  );
}

/** All numbers of a knob. */
export function KnobFields({
  knob,
  take,
  fault,
  quantities,
}: Props & { quantities: readonly KnobQuantity[] }) {
  const end = (name: 'from' | 'to', label: string) => (
    <>
      <span className={styles.name}>{label}</span>
      <FieldBox
        label={label}
        text={fieldText({ dimension: DIMENSION[knob.sets] }, knob[name])}
        read={(text) => readEnd(knob, text)}
        take={(value) => take({ ...knob, [name]: value })}
        fault={fault}
      />
    </>
  );
  const { display } = knob;
  return (
    <div className={styles.fields}>
      <Choice
        name="sets"
        label="sets"
        choices={quantities.map((one) => [one, one] as const)}
        knob={knob}
        take={(next) => take(converted(knob, next.sets))}
      />
      <Choice
        name="bits"
        label="reading"
        choices={[8, 10, 12, 16].map((bits) => [bits, `${bits} bits`] as const)}
        knob={knob}
        take={take}
      />
      {end('from', 'at its low end')}
      {end('to', 'at its high end')}
      <Choice
        name="curve"
        label="curve"
        choices={[
          ['linear', 'linear'],
          ['logarithmic', 'logarithmic'],
          ['lightness', 'even lightness'],
        ]}
        knob={knob}
        take={take}
      />
      <Counts name="deadLow" label="dead zone, low end" knob={knob} take={take} fault={fault} />
      <Counts name="deadHigh" label="dead zone, high end" knob={knob} take={take} fault={fault} />
      <Choice
        name="wide"
        label="computed in"
        choices={[
          [32, '32 bits'],
          [16, '16 bits'],
        ]}
        knob={knob}
        take={take}
      />
      <Choice
        name="first"
        label="first"
        choices={[
          ['multiply', 'multiply'],
          ['divide', 'divide'],
        ]}
        knob={knob}
        take={take}
      />
      <Counts name="noise" label="noise, ± counts" knob={knob} take={take} fault={fault} />
      <Choice
        name="average"
        label="mean of"
        choices={[1, 2, 4, 8, 16, 32, 64].map(
          (one) => [one, one === 1 ? 'single ones' : `${one} readings`] as const,
        )}
        knob={knob}
        take={take}
      />
      <Counts name="hysteresis" label="hysteresis, counts" knob={knob} take={take} fault={fault} />
      <span className={styles.name}>display</span>
      <ChoiceBox
        label="Display"
        className={styles.box ?? ''}
        value={display?.unit ?? 'none'}
        take={(unit) => {
          const rest: Knob = { ...knob };
          delete rest.display;
          const own = (['Hz', 'rpm', 'ms', '%', 'V'] as const).find((one) => one === unit);
          take(
            own
              ? { ...rest, display: { unit: own, from: display?.from ?? 0, to: display?.to ?? 100 } }
              : rest,
          );
        }}
      >
        {['none', 'Hz', 'rpm', 'ms', '%', 'V'].map((one) => (
          <option key={one}>{one}</option>
        ))}
      </ChoiceBox>
      {display &&
        (['from', 'to'] as const).map((name) => [
          <span key={name} className={styles.name}>
            display {name === 'from' ? 'at its low end' : 'at its high end'}
          </span>,
          <FieldBox
            key={`${name} field`}
            label={`display ${name}`}
            text={fieldText(NUMBER, display[name])}
            read={(text) => parseField({ ...NUMBER, label: 'value of the display' }, text)}
            take={(value) => take({ ...knob, display: { ...display, [name]: value ?? 0 } })}
            fault={fault}
          />,
        ])}
    </div>
  );
}

/** A knob that sets another quantity, with the same ends where they can be said in it: 1 to 25 Hz are 1 s to 40 ms. */
function converted(knob: Knob, sets: KnobQuantity): Knob {
  const rate = (one: KnobQuantity): boolean => one === 'frequency' || one === 'period';
  if (knob.sets === sets) return knob;
  if (rate(knob.sets) && rate(sets) && knob.from > 0 && knob.to > 0) {
    return { ...knob, sets, from: 1 / knob.from, to: 1 / knob.to };
  }
  return { ...knob, sets, ...ENDS[sets] };
}

const ENDS: Record<KnobQuantity, { from: number; to: number }> = {
  frequency: { from: 1, to: 100 },
  period: { from: 1, to: 0.01 },
  width: { from: 0.001, to: 0.002 },
  duty: { from: 0, to: 1 },
  level: { from: 0, to: 3.3 },
};
