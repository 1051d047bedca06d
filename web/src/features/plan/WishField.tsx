'use client';

import { useState } from 'react';
import { type PlanSignal, freeId, freeName, parseWish, sentenceOf } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { TextBox } from '../../components/fields/TextBox.tsx';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import styles from './plan.module.css';

function sentence(signal: PlanSignal): string {
  return sentenceOf(signal)
    .map((piece) => piece.text)
    .join('');
}

/** Adds a signal by saying what it should do; the line below shows how it is understood before it is added. */
export function WishField() {
  const { plan, part, change, report } = usePlanContext();
  const [text, setText] = useState('');
  const [tried, setTried] = useState(false);
  const read = text.trim() === '' ? undefined : parseWish(text, part.pins);
  const signal: PlanSignal | undefined = read?.ok
    ? {
        id: freeId(plan, read.value.name),
        name: freeName(
          read.value.name,
          plan.signals.map((one) => one.name),
        ),
        ...read.value.target,
        ...(read.value.pin ? { pin: read.value.pin } : {}),
      }
    : undefined;
  const add = () => {
    setTried(true);
    if (!signal) return;
    ask((engine, key) => engine.place(key(plan), signal))
      .then((setting) => {
        const settled = setting ? { ...signal, setting } : signal;
        change((now) => ({ ...now, signals: [...now.signals, settled] }));
        setText('');
        setTried(false);
      })
      .catch((error: unknown) => report(sentenceOfError(error)));
  };
  const fault = read && !read.ok && tried ? read.fault.sentence : undefined;
  return (
    <div className={styles.say}>
      <TextBox
        label="Add a signal"
        placeholder="+ add a signal: “buzzer beeps 2 kHz”, “lamp dims 1000 steps”, “servo 0.9..2.1 ms” …"
        value={text}
        aria-invalid={fault !== undefined}
        onChange={(event) => {
          setText(event.target.value);
          setTried(false);
        }}
        onKeyDown={(event) => {
          if (event.key === 'Enter') add();
          if (event.key === 'Escape') setText('');
        }}
      />
      <p className={fault ? styles.fault : 'soft'} aria-live="polite">
        {fault ?? (signal ? `Enter adds: ${sentence(signal)}` : '')}
      </p>
    </div>
  );
}
