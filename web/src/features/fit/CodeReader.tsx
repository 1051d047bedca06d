'use client';

import { useEffect, useRef, useState } from 'react';
import { type DecodedForSignal, isOutput, meansOf, numbersText, pinName, printHz, printPercent } from '@herzschlag/core';
import { Panel } from '../../components/frame/Panel.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { core } from '../../worker/core.ts';
import type { SignalEditor } from './useSignalView.ts';
import styles from './fit.module.css';

/** The lines are read once typing pauses. */
const PAUSE_MS = 120;

type Effect = Extract<DecodedForSignal, { ok: true }>['timers'][number]['effects'][number];

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
        <button type="button" className={`plain ${styles.filter}`} onClick={take}>
          use this
        </button>
      )}
    </p>
  );
}

function Result({
  read,
  editor,
  close,
}: {
  read: DecodedForSignal;
  editor: SignalEditor;
  close: () => void;
}) {
  const { part } = usePlanContext();
  if (!read.ok) {
    return (
      <p className={styles.slip} data-warns="true" data-testid="code-fault" role="alert">
        {read.fault}
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
  return (
    <div data-testid="code-result">
      {read.slips.map((slip) => (
        <p key={slip.id} className={styles.slip} data-warns="true" data-slip={slip.id}>
          <b>{slip.title}</b> {slip.text}
        </p>
      ))}
      {read.timers.map(({ timer, mode, effects, notes }) => (
        <div key={timer}>
          <p className={styles.deedHead}>
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

/** Reads somebody's register writes: what they really do, what is not enabled, and the slip that explains the difference. */
export function CodeReader({ editor }: { editor: SignalEditor }) {
  const { plan, part, report } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [text, setText] = useState('');
  const [read, setRead] = useState<DecodedForSignal>();
  const pause = useRef<ReturnType<typeof setTimeout>>(undefined);

  useEffect(() => {
    if (text.trim() === '') return undefined;
    let current = true;
    core()
      .backward(plan, editor.signal, text)
      .then((next) => current && setRead(next))
      .catch((error: unknown) => report(String(error)));
    return () => {
      current = false;
    };
  }, [plan, editor.signal, text, report]);

  /** The field keeps its own text; it is read once typing pauses. */
  const typed = (next: string) => {
    clearTimeout(pause.current);
    pause.current = setTimeout(() => setText(next), PAUSE_MS);
  };

  return (
    <>
      <button
        type="button"
        className={`plain ${styles.decodeForSignal}`}
        aria-haspopup="dialog"
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        read code …
      </button>
      <Panel button={anchor} side="right" close={() => setAnchor(undefined)}>
        <div className={styles.codePanel}>
          <p className="label">What do these lines do?</p>
          <p className="soft">
            Register writes for {part.name} as they stand in a program: =, |=, &amp;=, shifts of named bits,
            in decimal, hex or binary. They are held against {editor.signal.name}.
          </p>
          <textarea
            aria-label="Lines of code"
            className={styles.codeText}
            autoFocus
            rows={7}
            spellCheck={false}
            defaultValue={text}
            onChange={(event) => typed(event.target.value)}
          />
          {read && text.trim() !== '' && (
            <Result read={read} editor={editor} close={() => setAnchor(undefined)} />
          )}
        </div>
      </Panel>
    </>
  );
}
