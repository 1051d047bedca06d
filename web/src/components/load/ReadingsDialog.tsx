'use client';

import Button from '@mui/material/Button';
import { useState } from 'react';
import {
  deviations,
  kindOf,
  parseSeen,
  type Plan,
  type PlanSignal,
  type Reading,
  type ReadingQuantity,
  type Readings,
  readRange,
  seenAt,
  seenText,
  setFor,
  setText,
  type SignalEvaluation,
  signalSetTo,
  succeeded,
  withoutKey,
} from '@herzschlag/core';
import { ChoiceBox } from '../fields/ChoiceBox.tsx';
import { FieldBox } from './FieldBox.tsx';
import { SavePicture } from '../drawing/SavePicture.tsx';
import styles from './load.module.css';
import { ReadingsChart } from './ReadingsChart.tsx';
import { ReadingsTable } from './ReadingsTable.tsx';
import { SheetDialog } from './SheetDialog.tsx';

function setNow({ of }: Readings, { frequencyHz, duty }: SignalEvaluation): number {
  return of === 'duty' ? duty : of === 'width' ? duty / frequencyHz : frequencyHz;
}

/** What the readings say of the value that is set now, and a way to set another by what one wants to see. */
function Convert({
  readings,
  signal,
  outcome,
  change,
  fault,
}: {
  readings: Readings;
  signal: PlanSignal;
  outcome: SignalEvaluation;
  change: (signal: PlanSignal) => Promise<Plan | undefined>;
  fault: (sentence: string | undefined) => void;
}) {
  const { of, unit } = readings;
  const [held, setHeld] = useState<string>();
  const now = seenAt(readings, setNow(readings, outcome));
  const want = (seen: number): void => {
    const found = setFor(readings, seen);
    if (!found.ok) return fault(found.fault.sentence);
    const next = signalSetTo(signal, of, found.value.set, outcome.frequencyHz);
    if (!next) return fault(`A signal that ${kindOf(signal).verb} has no ${of} to set.`);
    const { seen: reached, held: clamped, set } = found.value;
    setHeld(
      clamped
        ? `Clamped to ${seenText(readings, reached, 4)}, set by ${setText(of, set, 5)}: nothing was read beyond it.`
        : undefined,
    );
    void change({ ...withoutKey(signal, 'setting'), target: next.target } as PlanSignal);
  };
  return (
    <>
      <div className={styles.row}>
        <span className="soft">want</span>
        <FieldBox
          label={`Wanted, ${unit}`}
          text={seenText(readings, now, 5)}
          read={(text) => parseSeen(text, unit)}
          take={want}
          fault={fault}
        />
        <span className="soft">
          = {of} {setText(of, setNow(readings, outcome), 5)}
        </span>
      </div>
      <p className={styles.fault} role="status">
        {held}
      </p>
    </>
  );
}

/** Readings from the bench of a signal, the line through them, and conversions by them. */
export function ReadingsDialog({
  signal,
  first,
  outcome,
  change,
  close,
}: {
  signal: PlanSignal;
  first: Readings;
  outcome: SignalEvaluation | undefined;
  change: (signal: PlanSignal) => Promise<Plan | undefined>;
  close: () => void;
}) {
  const [head, setHead] = useState<Readings>(first);
  const [fault, setFault] = useState<string>();
  const readings: Readings = signal.readings ?? { ...head, points: [] };
  const { points, by = 'points', outside = 'clamp', of, unit } = readings;
  const keep = (next: Readings): void => {
    setHead(next);
    if (next.points.length > 0) void change({ ...signal, readings: next });
    else if (signal.readings) void change(withoutKey(signal, 'readings'));
  };
  const sorted = (rows: Reading[]): Reading[] => [...rows].sort((one, other) => one.set - other.set);
  const ends = readRange(readings);
  return (
    <SheetDialog
      title={`Readings of ${signal.name}`}
      close={close}
      tools={
        points.length > 0 && (
          <Button color="inherit" onClick={() => keep({ ...readings, points: [] })}>
            Delete all
          </Button>
        )
      }
    >
      <div className={styles.row}>
        <ChoiceBox
          label="What is set"
          className={styles.box ?? ''}
          value={of}
          take={(value) => keep({ ...readings, of: value as ReadingQuantity, points: [] })}
        >
          {['duty', 'width', 'frequency'].map((one) => (
            <option key={one} disabled={points.length > 0 && one !== of}>
              {one}
            </option>
          ))}
        </ChoiceBox>
        <span className="soft">against</span>
        <FieldBox
          label="Unit of what was seen"
          text={unit}
          read={(text) => succeeded(text.trim().slice(0, 12) || unit)}
          take={(value) => keep({ ...readings, unit: value })}
          fault={setFault}
        />
        <ChoiceBox
          label="Between readings"
          className={styles.box ?? ''}
          value={by}
          take={(value) => keep({ ...readings, by: value === 'line' ? 'line' : 'points' })}
        >
          <option value="points">by points</option>
          <option value="line">by a line</option>
        </ChoiceBox>
        <span className="soft">outside of them</span>
        <ChoiceBox
          label="Outside of readings"
          className={styles.box ?? ''}
          value={outside}
          take={(value) => keep({ ...readings, outside: value === 'refuse' ? 'refuse' : 'clamp' })}
        >
          <option value="clamp">hold</option>
          <option value="refuse">refuse</option>
        </ChoiceBox>
      </div>
      <div className={styles.halves} data-wide="true">
        <div>
          <ReadingsTable
            readings={readings}
            take={(rows) => keep({ ...readings, points: sorted(rows) })}
            fault={setFault}
          />
          <p className={styles.fault} role="alert">
            {fault}
          </p>
        </div>
        <div>
          {points.length === 0 ? (
            <p className="soft">
              Type what was set and what was seen, Enter goes on; or paste two or three columns from a
              spreadsheet. The target can then be said in {unit}, and the plan checks that it stays within
              what was read.
            </p>
          ) : (
            <>
              <div data-pictured>
                <ReadingsChart readings={readings} />
                <SavePicture name="Readings" />
              </div>
              <p className={styles.figures}>
                <span>
                  usable <b>{setText(of, ends.low, 4)}</b> to <b>{setText(of, ends.high, 4)}</b>
                </span>
                {points.length > 2 && (
                  <span>
                    off the line by <b>{seenText(readings, deviations(readings).greatest, 3)}</b> at most
                  </span>
                )}
              </p>
              {outcome && (
                <Convert
                  readings={readings}
                  signal={signal}
                  outcome={outcome}
                  change={change}
                  fault={setFault}
                />
              )}
            </>
          )}
        </div>
      </div>
    </SheetDialog>
  );
}
