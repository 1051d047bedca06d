'use client';

import { memo, useState } from 'react';
import {
  type AdjustedField,
  type SignalEvaluation,
  binary,
  hex,
  pinName,
  printHz,
  printNumber,
  printSeconds,
} from '@herzschlag/core';
import { ChoiceBox } from '../../components/fields/ChoiceBox.tsx';
import { TextBox } from '../../components/fields/TextBox.tsx';
import { CopyDerivation } from './CopyDerivation.tsx';
import { Figures } from './Figures.tsx';
import { CodeReader } from './CodeReader.tsx';
import type { SignalEditor } from './useSignalView.ts';
import Tooltip from '@mui/material/Tooltip';
import { unbroken } from '../../components/text/unbroken.ts';
import styles from './fit.module.css';

type Rung = SignalEvaluation['ladder'][number];
type Field = AdjustedField;

function readCount(text: string): number | undefined {
  const plain = text.replace(/[\s\u202f_]/g, '');
  if (!/^(\d+(\.\d+)?|0x[0-9a-f]+|0b[01]+)$/i.test(plain)) return undefined;
  return Number(plain);
}

function CountField({
  rung,
  range,
  set,
}: {
  rung: Rung;
  range: { min: number; max: number; step?: number };
  set: (value: number) => void;
}) {
  const [draft, setDraft] = useState<string>();
  const value = rung.value ?? 0;
  const read = draft === undefined ? value : readCount(draft);
  const onGrid = read !== undefined && Number.isInteger(read / (range.step ?? 1));
  const fits = onGrid && read >= range.min && read <= range.max;
  const commit = () => {
    setDraft(undefined);
    if (fits && read !== value) set(read);
  };
  return (
    <Tooltip title={`${printNumber(range.min)} to ${printNumber(range.max)}; decimal, 0x hex or 0b binary`}>
      <TextBox
        className={styles.number ?? ''}
        label={rung.label}
        aria-invalid={!fits}
        data-rung={rung.id}
        size={Math.max(4, (draft ?? String(value)).length + 1)}
        value={draft ?? String(value)}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === 'Enter') commit();
          if (event.key === 'Escape') setDraft(undefined);
          const by = event.key === 'ArrowUp' ? 1 : event.key === 'ArrowDown' ? -1 : 0;
          if (by === 0) return;
          event.preventDefault();
          setDraft(undefined);
          const step = (range.step ?? 1) * (event.shiftKey ? 10 : 1);
          const next = Math.min(range.max, Math.max(range.min, value + by * step));
          if (next !== value) set(next);
        }}
      />
    </Tooltip>
  );
}

function RungValue({ rung, set }: { rung: Rung; set: (field: Field, value: number) => void }) {
  const { choices, value } = rung;
  if (value === undefined) return null;
  if (!choices) return <b>{value}</b>;
  const field = rung.id as Field;
  if ('options' in choices) {
    return (
      <ChoiceBox
        className={styles.number ?? ''}
        label={rung.label}
        data-rung={rung.id}
        value={value}
        take={(text) => set(field, Number(text))}
      >
        {choices.options.map((option) => (
          <option key={option}>{option}</option>
        ))}
      </ChoiceBox>
    );
  }
  return <CountField rung={rung} range={choices} set={(next) => set(field, next)} />;
}

function RegisterText({ register }: { register: NonNullable<Rung['register']> }) {
  if ('text' in register) return <span className={styles.register}>{register.text}</span>;
  const { name, value, width } = register;
  return (
    <Tooltip title={`${name} = ${value} = ${hex(value, width)} = 0b ${binary(value, width)}`}>
      <span className={styles.register}>{`${name} = ${hex(value, width)}`}</span>
    </Tooltip>
  );
}

/** Where a setting is, in words: "Timer 2 OC2B on PD3 · fast-top · inverted". */
function rungPlace(
  { timer, means, pin, mode, inverted }: SignalEvaluation['place'],
  nameOf: (pin: string) => string,
): string {
  const at = [timer, means].filter((word) => word !== undefined && word !== '').join(' ');
  const on = pin === undefined ? '' : ` on ${nameOf(pin)}`;
  return [`${at}${on}`, mode, inverted ? 'inverted' : undefined].filter(Boolean).join(' · ');
}

/** From the oscillator down to the pin: each division with its formula, its register, and what comes out of it. */
export const Ladder = memo(function Ladder({ editor }: { editor: SignalEditor }) {
  const { outcome, plan } = editor;
  return (
    <section aria-label="Ladder" className={styles.ladder}>
      <div className={styles.head}>
        <h2 className="label">Ladder</h2>
        {outcome && (
          <span className="soft" data-testid="place">
            {rungPlace(outcome.place, (pin) => pinName(plan, pin))}
            {editor.signal.setting === undefined ? ' · proposed' : ''}
          </span>
        )}
        <span className={styles.ladderTools}>
          {outcome && <CopyDerivation editor={editor} outcome={outcome} />}
          <CodeReader editor={editor} />
        </span>
      </div>
      {!outcome && (
        <p className={styles.slip} data-warns="true">
          <b>Nothing on this part meets the target.</b> The reasons are listed below; a wider tolerance,
          another pin or another clock may help.
        </p>
      )}
      {outcome?.ladder.map((rung) => (
        <div className={styles.rung} key={`${rung.id} ${rung.label}`}>
          <span>{rung.label}</span>
          <span className={styles.formula}>
            {rung.before && <span>{rung.before}</span>}
            <RungValue rung={rung} set={editor.adjust} />
            {rung.after && <span>{rung.after}</span>}
            {rung.register && <RegisterText register={rung.register} />}
          </span>
          <span className={styles.after} data-after={rung.id}>
            {rung.id === 'compare' ? `${printNumber(outcome.duty * 100, 6)} %` : printHz(rung.hz)}
            <small>{printSeconds(rung.id === 'compare' ? outcome.duty / rung.hz : 1 / rung.hz)}</small>
          </span>
        </div>
      ))}
      {outcome && <Figures plan={plan} outcome={outcome} />}
      {outcome && (
        <p className={`mono soft ${styles.exactly}`} data-testid="exactly">
          {outcome.place.cause === 'input'
            ? `slowest input exactly ${outcome.frequencyExact}\u00a0Hz: ${printNumber(Math.round(1 / (outcome.frequencyHz * outcome.stepS)))} counts`
            : `exactly ${outcome.frequencyExact}\u00a0Hz: a period of ${printNumber(
                (outcome.wave.periodTicks * outcome.wave.tickS) / outcome.wave.clockS,
                12,
              )} clocks of ${unbroken(printSeconds(outcome.wave.clockS))}`}
          {outcome.jitterS > 0 && `, edges within ±${printSeconds(outcome.jitterS)}`}
        </p>
      )}
    </section>
  );
});
