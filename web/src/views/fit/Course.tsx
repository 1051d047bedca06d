'use client';

import { useState } from 'react';
import type { PlanSignal } from '@herzschlag/core/format/plan.ts';
import { printSeconds } from '@herzschlag/core/quantity/print.ts';
import { readQuantity } from '@herzschlag/core/quantity/read.ts';
import { goalOf } from '@herzschlag/core/target/goal.ts';
import { stagesOf } from '@herzschlag/core/target/score.ts';
import { phaseText, readPhase, readScore, scoreText, type Said } from '@herzschlag/core/target/score-text.ts';
import { useBench } from '../../frame/PlanContext.ts';
import styles from './fit.module.css';
import type { SignalDesk } from './useSignalView.ts';

/** One thing a signal does over time: what it is called, what it says, and what an entry makes of the signal. */
type Entry = {
  label: string;
  /** Whether the setting has to be looked for anew. */
  renews?: boolean;
  text: string;
  hint: string;
  read: (text: string) => Said<PlanSignal>;
};

function CourseField({
  entry,
  take,
  hint,
}: {
  entry: Entry;
  take: (next: PlanSignal, entry: Entry) => void;
  hint: (text?: string, fault?: boolean) => void;
}) {
  const [draft, setDraft] = useState<string>();
  const changed = draft !== undefined && draft.trim() !== entry.text;
  const settle = () => {
    if (!changed) {
      setDraft(undefined);
      hint();
      return;
    }
    const read = entry.read(draft);
    if (!read.ok) {
      hint(read.error, true);
      return;
    }
    setDraft(undefined);
    hint();
    take(read.value, entry);
  };
  return (
    <span>
      {entry.label}{' '}
      <span className={`${styles.token} ${styles.quiet}`} data-text={draft ?? entry.text}>
        <input
          aria-label={entry.label}
          aria-invalid={changed && !entry.read(draft).ok}
          size={1}
          spellCheck={false}
          autoComplete="off"
          value={draft ?? entry.text}
          onFocus={(event) => {
            event.currentTarget.select();
            hint(entry.hint);
          }}
          onChange={(event) => {
            setDraft(event.target.value);
            const read = entry.read(event.target.value);
            hint(read.ok ? entry.hint : read.error, !read.ok);
          }}
          onBlur={settle}
          onKeyDown={(event) => {
            if (event.key === 'Enter') settle();
            if (event.key === 'Escape') {
              setDraft(undefined);
              hint(entry.hint);
            }
          }}
        />
      </span>
    </span>
  );
}

function without<K extends 'score' | 'phase' | 'firstEdgeS' | 'complement'>(
  signal: PlanSignal,
  key: K,
): PlanSignal {
  const rest = { ...signal };
  delete rest[key];
  return rest;
}

function withScore(signal: PlanSignal, text: string): Said<PlanSignal> {
  const read = readScore(text);
  if (!read.ok) return read;
  if (!read.value) return { ok: true, value: without(signal, 'score') };
  try {
    stagesOf(read.value, goalOf(signal));
  } catch (error) {
    return { ok: false, error: error instanceof Error ? error.message : String(error) };
  }
  return { ok: true, value: { ...signal, score: read.value } };
}

function withFirstEdge(signal: PlanSignal, text: string): Said<PlanSignal> {
  if (/^\s*(any time)?\s*$/i.test(text)) return { ok: true, value: without(signal, 'firstEdgeS') };
  const read = readQuantity(text.replace(/^\s*within\s+/i, ''), 'time');
  return read.ok
    ? { ok: true, value: { ...signal, firstEdgeS: read.value.valueOf() } }
    : { ok: false, error: read.error };
}

const OPPOSITE = /^(?:on\s+)?(\S+?)(?:\s*,)?\s+(?:dead\s+)?(.+?)(?:\s+(?:apart|dead))?$/i;

function withOpposite(signal: PlanSignal, text: string, pins: readonly string[]): Said<PlanSignal> {
  if (/^\s*(none)?\s*$/i.test(text)) return { ok: true, value: without(signal, 'complement') };
  const match = OPPOSITE.exec(text.trim());
  const pin = pins.find((one) => one.toLowerCase() === match?.[1]?.toLowerCase());
  if (!match || !pin) {
    return {
      ok: false,
      error: `“${text.slice(0, 40)}” names no pin and time; say for example PB13, 1 µs apart.`,
    };
  }
  const read = readQuantity(match[2] ?? '', 'time');
  if (!read.ok) return { ok: false, error: read.error };
  return { ok: true, value: { ...signal, complement: { pin, deadS: read.value.valueOf() } } };
}

/** What a signal does beyond its steady pulse: its score over time, its phase to another signal, its first edge. */
export function Course({ desk, hint }: { desk: SignalDesk; hint: (text?: string, fault?: boolean) => void }) {
  const { plan, change, part } = useBench();
  const { signal } = desk;
  const others = plan.signals.filter((one) => one.id !== signal.id && one.kind !== 'measure');
  const nameOf = (id: string): string => others.find((one) => one.id === id)?.name ?? id;
  const take = (next: PlanSignal, { renews }: Entry) => {
    if (renews) {
      desk.retarget(next);
      return;
    }
    change((now) => ({ ...now, signals: now.signals.map((one) => (one.id === next.id ? next : one)) }));
  };
  const entries: Entry[] = [
    {
      label: 'course',
      text: scoreText(signal.score),
      hint: '2 periods; rest 6 s · 0 % to 100 % in 2 s · 440 Hz to 880 Hz in 3 s · once at the end, or it repeats',
      read: (text) => withScore(signal, text),
    },
    {
      label: 'phase',
      text: phaseText(signal.phase, nameOf),
      hint: 'how much of a period its rise comes after that of another signal: 90° after its name ±5°',
      read: (text) => {
        const read = readPhase(text, others);
        if (!read.ok) return read;
        return {
          ok: true,
          value: read.value ? { ...signal, phase: read.value } : without(signal, 'phase'),
        };
      },
    },
    {
      label: 'first edge',
      text: signal.firstEdgeS === undefined ? 'any time' : `within ${printSeconds(signal.firstEdgeS)}`,
      hint: 'how soon after its timer starts the pin must change: within 10 ms',
      read: (text) => withFirstEdge(signal, text),
    },
    {
      label: 'opposite',
      renews: true,
      text: signal.complement
        ? `${signal.complement.pin}, ${printSeconds(signal.complement.deadS)} apart`
        : 'none',
      hint: 'a second pin with the opposite, and how long both stay low between: PB13, 1 µs apart',
      read: (text) => withOpposite(signal, text, part.pins),
    },
  ];
  return (
    <p className={styles.course}>
      {entries.map((entry) => (
        <CourseField key={entry.label} entry={entry} take={take} hint={hint} />
      ))}
    </p>
  );
}
