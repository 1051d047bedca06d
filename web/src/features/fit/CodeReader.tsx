'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { useRef, useState } from 'react';
import {
  type DecodedForSignal,
  type Result,
  isOutput,
  meansOf,
  numbersText,
  pinName,
  printHz,
  printNumber,
  printPercent,
} from '@herzschlag/core';
import { Panel } from '../../components/frame/Panel.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { TextLines } from '../../components/fields/TextBox.tsx';
import { useEngine } from '../../worker/useEngine.ts';
import type { SignalEditor } from './useSignalView.ts';
import styles from './fit.module.css';

/** The lines are decoded once typing pauses. */
const PAUSE_MS = 120;

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
      {take && (
        <ButtonBase className={styles.filter} onClick={take}>
          use this
        </ButtonBase>
      )}
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
  editor,
  close,
}: {
  read: Result<DecodedForSignal>;
  editor: SignalEditor;
  close: () => void;
}) {
  const { part, change } = usePlanContext();
  if (!read.ok) {
    return (
      <p className={styles.slip} data-warns="true" data-testid="code-fault" role="alert">
        {read.fault.sentence}
      </p>
    );
  }
  const name = (id: string): string => part.timers.find((one) => one.id === id)?.name ?? id;
  const takes = (effect: Effect): (() => void) | undefined => {
    const { setting } = effect;
    const fits = editor.signal.pin === undefined || setting.pin === editor.signal.pin;
    if (!isOutput(setting) || !fits) return undefined;
    return () => {
      editor.choose(setting);
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
            className={styles.filter}
            onClick={() => {
              change((now) => ({ ...now, signals: [...now.signals, ...signals] }));
              close();
            }}
          >
            {signals.length === 1 ? 'add it as a signal' : `add ${signals.length} signals`}
          </ButtonBase>
        )}
      </p>
      {read.value.slips.map((slip) => (
        <p key={slip.id} className={styles.slip} data-warns={slip.warns} data-slip={slip.id}>
          <b>{slip.title}</b> {slip.text}
        </p>
      ))}
      {read.value.timers.map(({ timer, mode, effects, notes }) => (
        <div key={timer}>
          <p className={styles.effectHead}>
            {name(timer)} <span className="soft">{mode}</span>
          </p>
          {effects.map((effect, at) => (
            <EffectLine key={at} effect={effect} take={takes(effect)} />
          ))}
          {notes.map((note) => (
            <p key={note} className={styles.slip}>
              {note}
            </p>
          ))}
        </div>
      ))}
    </div>
  );
}

/** Decodes register writes: what they really do, what is not enabled, and the slip that explains the difference. */
export function CodeReader({ editor }: { editor: SignalEditor }) {
  const { plan, part, report } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [text, setText] = useState('');
  const pause = useRef<ReturnType<typeof setTimeout>>(undefined);
  const { signal } = editor;
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
    <>
      <ButtonBase
        className={styles.readCode}
        aria-haspopup="dialog"
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        decode code …
      </ButtonBase>
      <Panel button={anchor} name="Decode code" side="right" close={() => setAnchor(undefined)}>
        <div className={styles.codePanel}>
          <p className="label">What do these lines do?</p>
          <p className="soft">
            A program for {part.name} or some lines of one: definitions, functions, handlers, register writes
            by any name. What is not understood is left out and listed. It is compared with {signal.name}.
          </p>
          <TextLines
            label="Lines of code"
            className={styles.codeText ?? ''}
            autoFocus
            rows={7}
            spellCheck={false}
            defaultValue={text}
            onChange={(event) => typed(event.target.value)}
          />
          {read && text.trim() !== '' && (
            <Decoded read={read} editor={editor} close={() => setAnchor(undefined)} />
          )}
        </div>
      </Panel>
    </>
  );
}
