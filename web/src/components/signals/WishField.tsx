'use client';

import { useState } from 'react';
import type { Plan, PlanSignal, WishLine } from '@herzschlag/core';
import { GrowingText } from '../fields/TextBox.tsx';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError, useEngine } from '../../worker/useEngine.ts';
import { WishLines } from './WishLines.tsx';
import styles from './wishes.module.css';

/** A plan with more signals, each with the best setting beside those that stand before it. */
async function placed(plan: Plan, signals: readonly PlanSignal[]): Promise<PlanSignal[]> {
  const done: PlanSignal[] = [];
  for (const signal of signals) {
    const now = { ...plan, signals: [...plan.signals, ...done] };
    const setting = await ask((engine, key) => engine.place(key(now), signal));
    done.push(setting ? { ...signal, setting } : signal);
  }
  return done;
}

/**
 * Adds signals by saying what they should do, one a line; what they become, and which words were not understood, stands
 * below while one types. Enter adds what was understood, and leaves the lines that ask something.
 */
export function WishField({
  plan,
  add,
  report,
  label = 'Add a signal',
  placeholder,
  autoFocus = false,
}: {
  plan: Plan;
  add: (signals: PlanSignal[]) => void | Promise<void>;
  report: (sentence: string) => void;
  label?: string;
  placeholder: string;
  autoFocus?: boolean;
}) {
  const [text, setText] = useState('');
  const [picked, setPicked] = useState<ReadonlyMap<string, number>>(new Map());
  const said = text.trim();
  const { value: lines } = useEngine(
    ['wishes', plan, said],
    (engine, key) => engine.wishes(key(plan), said),
    {
      enabled: said !== '',
      keep: true,
      report,
    },
  );
  const shown = said === '' ? [] : (lines ?? []);
  const chosen = (line: WishLine): number =>
    Math.min(picked.get(line.text) ?? 0, Math.max(0, line.readings.length - 1));
  const choose = (line: WishLine, at: number): void => {
    const count = line.readings.length;
    setPicked(new Map([...picked, [line.text, (at + count) % count]]));
  };
  // Arrow keys move the caret where there are several lines.
  const open = shown.length === 1 ? shown.find(({ readings }) => readings.length > 1) : undefined;

  const enter = async (): Promise<void> => {
    const all = await ask((engine, key) => engine.wishes(key(plan), said));
    const signals = all.flatMap((line) => line.readings[chosen(line)]?.signal ?? []);
    if (signals.length === 0) return;
    await add(await placed(plan, signals));
    setText(all.flatMap((line) => (line.readings.length === 0 ? [line.text] : [])).join('\n'));
    setPicked(new Map());
  };

  return (
    <div className={styles.field}>
      <GrowingText
        label={label}
        placeholder={placeholder}
        className={styles.box ?? ''}
        autoFocus={autoFocus}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Escape') setText('');
          if (open && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
            event.preventDefault();
            choose(open, chosen(open) + (event.key === 'ArrowDown' ? 1 : -1));
          }
          if (event.key !== 'Enter' || event.shiftKey || event.nativeEvent.isComposing) return;
          event.preventDefault();
          enter().catch((error: unknown) => report(sentenceOfError(error)));
        }}
      />
      {shown.length > 0 && <WishLines lines={shown} chosen={chosen} choose={choose} />}
      {shown.some(({ readings }) => readings.length > 0) && (
        <p className={styles.hint}>
          <kbd>Enter</kbd> adds {shown.length > 1 ? 'them' : 'it'}
          {open && (
            <>
              , <kbd>↓</kbd> the next reading
            </>
          )}
        </p>
      )}
    </div>
  );
}
