'use client';

import Button from '@mui/material/Button';
import { useState } from 'react';
import {
  type ChoiceField,
  fieldText,
  type Load,
  type LoadKind,
  loadsFor,
  type NumberField,
  parseField,
  type Plan,
  type PlanSignal,
  withoutKey,
} from '@herzschlag/core';
import { useEngine } from '../../worker/useEngine.ts';
import { ChoiceBox } from '../fields/ChoiceBox.tsx';
import { FieldBox } from './FieldBox.tsx';
import styles from './load.module.css';
import { LoadLens } from './LoadLens.tsx';
import { SheetDialog } from './SheetDialog.tsx';

type Values = Record<string, string | number | undefined>;

/** A load with one of its values changed, or left out. */
function withValue(load: Load, key: string, value: string | number | undefined): Load {
  const next: Values = { ...load, [key]: value };
  if (value === undefined) delete next[key];
  // The fields of the model decide what may be changed, and the gate of the plan reads it once more.
  return next as Load;
}

function Field({
  name,
  field,
  load,
  take,
  fault,
}: {
  name: string;
  field: NumberField | ChoiceField;
  load: Load;
  take: (load: Load) => void;
  fault: (sentence: string | undefined) => void;
}) {
  const value = (load as Values)[name];
  if ('choices' in field) {
    return (
      <ChoiceBox
        label={field.label}
        className={styles.box ?? ''}
        value={value ?? field.choices[0] ?? ''}
        take={(chosen) => take(withValue(load, name, chosen === field.choices[0] ? undefined : chosen))}
      >
        {field.choices.map((one) => (
          <option key={one}>{one}</option>
        ))}
      </ChoiceBox>
    );
  }
  return (
    <FieldBox
      label={field.label}
      text={typeof value === 'number' ? fieldText(field, value) : ''}
      placeholder={field.optional ? 'not set' : ''}
      read={(text) => parseField(field, text)}
      take={(read) => take(withValue(load, name, read))}
      fault={fault}
    />
  );
}

function Fields({
  kind,
  load,
  take,
  fault,
}: {
  kind: LoadKind;
  load: Load;
  take: (load: Load) => void;
  fault: (sentence: string | undefined) => void;
}) {
  return Object.entries(kind.fields).map(([name, field]) => [
    <span key={`${name} name`} className={styles.name}>
      {field.label}
    </span>,
    <Field key={`${load.type} ${name}`} name={name} field={field} load={load} take={take} fault={fault} />,
  ]);
}

/** What hangs on a pin: its kind and its numbers, with what it does beside them. */
export function LoadDialog({
  plan,
  signal,
  change,
  close,
}: {
  plan: Plan;
  signal: PlanSignal;
  change: (signal: PlanSignal) => Promise<Plan | undefined>;
  close: () => void;
}) {
  const kinds = loadsFor(signal);
  const [load, setLoad] = useState<Load | undefined>(signal.load ?? kinds[0]?.starter);
  const [fault, setFault] = useState<string>();
  const kind = kinds.find(({ id }) => id === load?.type);
  const { value: seen } = useEngine(
    ['load', plan, signal.id, JSON.stringify(load)],
    (engine, key) => (load ? engine.load(key(plan), signal.id, load) : Promise.resolve(undefined)),
    { keep: true },
  );
  const take = (next: Load): void => {
    setLoad(next);
    void change({ ...signal, load: next });
  };
  return (
    <SheetDialog
      title={`What hangs on ${signal.name}`}
      close={close}
      tools={
        signal.load && (
          <Button
            color="inherit"
            onClick={() => {
              void change(withoutKey(signal, 'load'));
              close();
            }}
          >
            Nothing
          </Button>
        )
      }
    >
      <div className={styles.halves}>
        <div>
          <div className={styles.fields}>
            <span className={styles.name}>load</span>
            <ChoiceBox
              label="Load"
              className={styles.box ?? ''}
              value={load?.type ?? ''}
              take={(id) => {
                const starter = kinds.find((one) => one.id === id)?.starter;
                if (starter) take(starter);
              }}
            >
              {kinds.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </ChoiceBox>
            {kind && load && <Fields kind={kind} load={load} take={take} fault={setFault} />}
          </div>
          <p className={styles.fault} role="status">
            {fault}
          </p>
        </div>
        <div>
          {seen?.ok && <LoadLens report={seen.value} />}
          {seen && !seen.ok && <p className="soft">{seen.fault.sentence}</p>}
        </div>
      </div>
    </SheetDialog>
  );
}
