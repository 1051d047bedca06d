'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { useRef, useState } from 'react';
import {
  type DecodedForSignal,
  type OutputSetting,
  type PlanSignal,
  type Result,
  isOutput,
  meansOf,
  numbersText,
  pinName,
  printHz,
  printNumber,
  printPercent,
} from '@herzschlag/core';
import { TextLines } from '../fields/TextBox.tsx';
import { usePlanContext } from '../frame/PlanContext.ts';
import { useEngine } from '../../worker/useEngine.ts';
import styles from './program.module.css';

/** The lines are decoded once typing pauses. */
const PAUSE_MS = 120;

/** The signal that code is compared with, and how it takes a setting that was read. */
type Compared = { signal: PlanSignal; choose: (setting: OutputSetting) => void };

type Effect = DecodedForSignal['timers'][number]['effects'][number];

function EffectLine({ effect, take }: { effect: Effect; take: (() => void) | undefined }) {
  const { plan } = usePlanContext();
  const { setting, frequencyHz, duty } = effect;
  const pin = setting.pin === undefined ? '' : ` on ${pinName(plan, setting.pin)}`;
  return (
    <p className={styles.effect}>
      <b className="mono">{printHz(frequencyHz, 8)}</b>
      {isOutput(setting) ? ` · ${printPercent(duty, 4)}` : ' interrupts'} · {meansOf(setting)}
      {pin} · {numbersText(setting)}
      {take && <ButtonBase onClick={take}>use this</ButtonBase>}
    </p>
  );
}

/** How much of the text was understood. */
function readingText({ lines, understood, skipped }: DecodedForSignal['reading']): string {
  const read = `${printNumber(lines)} ${lines === 1 ? 'line' : 'lines'} read, ${printNumber(understood)} understood`;
  return skipped.length === 0 ? `${read}.` : `${read}, ${printNumber(skipped.length)} left out.`;
}

function Decoded({
  read,
  compared,
  close,
}: {
  read: Result<DecodedForSignal>;
  compared: Compared | undefined;
  close: () => void;
}) {
  const { part, change } = usePlanContext();
  if (!read.ok) {
    return (
      <p className={styles.note} data-warns="true" data-testid="code-fault" role="alert">
        {read.fault.sentence}
      </p>
    );
  }
  const name = (id: string): string => part.timers.find((one) => one.id === id)?.name ?? id;
  const takes = (effect: Effect): (() => void) | undefined => {
    const { setting } = effect;
    const fits = compared && (compared.signal.pin === undefined || setting.pin === compared.signal.pin);
    if (!isOutput(setting) || !fits) return undefined;
    return () => {
      compared.choose(setting);
      close();
    };
  };
  const { reading, signals } = read.value;
  return (
    <div data-testid="code-result">
      <p className={styles.reading}>
        <span className="soft">{readingText(reading)}</span>
        {signals.length > 0 && (
          <ButtonBase
            onClick={() => {
              change((now) => ({ ...now, signals: [...now.signals, ...signals] }));
              close();
            }}
          >
            {`add ${signals.length} ${signals.length === 1 ? 'signal' : 'signals'}`}
          </ButtonBase>
        )}
      </p>
      {read.value.slips.map((slip) => (
        <p key={slip.id} className={styles.note} data-warns={slip.warns} data-slip={slip.id}>
          <b>{slip.title}</b> {slip.text}
        </p>
      ))}
      {read.value.timers.map(({ timer, mode, effects, notes }) => (
        <div key={timer}>
          <p className={styles.head}>
            {name(timer)} <span className="soft">{mode}</span>
          </p>
          {effects.map((effect, at) => (
            <EffectLine key={at} effect={effect} take={takes(effect)} />
          ))}
          {notes.map((note) => (
            <p key={note} className={styles.note}>
              {note}
            </p>
          ))}
        </div>
      ))}
    </div>
  );
}

/** What a program does: its timers, pins and ticks, what is missing, and, beside a signal, the slip that explains the difference. */
export function ProgramPanel({
  compared,
  begin = '',
  close,
}: {
  compared?: Compared;
  /** The text that the field begins with. */
  begin?: string;
  close: () => void;
}) {
  const { plan, part, report } = usePlanContext();
  const [text, setText] = useState(begin);
  const pause = useRef<ReturnType<typeof setTimeout>>(undefined);
  const signal = compared?.signal;
  const { value: read } = useEngine(
    ['decode', plan, signal, text],
    (engine, key) => engine.decode(key(plan), signal, text),
    { enabled: text.trim() !== '', keep: true, report },
  );

  /** The field keeps its own text; it is read once typing pauses. */
  const typed = (next: string) => {
    clearTimeout(pause.current);
    pause.current = setTimeout(() => setText(next), PAUSE_MS);
  };

  return (
    <div className={styles.panel}>
      <p className="label">What does this program do?</p>
      <p className="soft">
        A program for {part.name} or some lines of one: definitions, functions, handlers, register writes by
        any name. What is not understood is left out and listed.
        {signal && ` It is compared with ${signal.name}.`}
      </p>
      <TextLines
        label="Lines of code"
        className={styles.text ?? ''}
        autoFocus
        rows={compared ? 7 : 12}
        spellCheck={false}
        defaultValue={text}
        onChange={(event) => typed(event.target.value)}
      />
      {read && text.trim() !== '' && <Decoded read={read} compared={compared} close={close} />}
    </div>
  );
}
