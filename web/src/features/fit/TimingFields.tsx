'use client';

import { useState } from 'react';
import {
  kindOf,
  type PlanSignal,
  type Result,
  succeeded,
  checkedSignal,
  firstEdgeText,
  oppositeText,
  parseFirstEdge,
  parseOpposite,
  parsePhase,
  parseSequence,
  phaseText,
  replacedSignal,
  sequenceText,
} from '@herzschlag/core';
import type { Told } from '../../state/usePlan.ts';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import styles from './fit.module.css';
import type { SignalEditor } from './useSignalView.ts';

/** One thing a signal does over time: what it is called, what it says, and what an entry makes of the signal. */
type Entry = {
  label: string;
  /** Whether the setting has to be looked for anew. */
  renews?: boolean;
  text: string;
  hint: string;
  read: (text: string) => Result<PlanSignal>;
};

function TimingField({
  entry,
  take,
  hint,
}: {
  entry: Entry;
  take: (next: PlanSignal, entry: Entry, told: Told) => void;
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
      hint(read.fault.sentence, true);
      return;
    }
    const typed = draft;
    setDraft(undefined);
    hint();
    take(read.value, entry, (fault) => {
      setDraft(typed);
      hint(fault.plain ?? fault.sentence, true);
    });
  };
  return (
    <span>
      {entry.label}{' '}
      <span className={`${styles.token} ${styles.quiet}`} data-text={draft ?? entry.text}>
        <input
          aria-label={entry.label}
          aria-invalid={changed && !entry.read(draft).ok}
          maxLength={2000}
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
            hint(read.ok ? entry.hint : read.fault.sentence, !read.ok);
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

function without<K extends 'sequence' | 'phase' | 'firstEdgeS' | 'complement'>(
  signal: PlanSignal,
  key: K,
): PlanSignal {
  const rest = { ...signal };
  delete rest[key];
  return rest;
}

function withSequence(signal: PlanSignal, text: string): Result<PlanSignal> {
  const read = parseSequence(text);
  if (!read.ok) return read;
  if (!read.value) return succeeded(without(signal, 'sequence'));
  return checkedSignal({ ...signal, sequence: read.value });
}

function withFirstEdge(signal: PlanSignal, text: string): Result<PlanSignal> {
  const read = parseFirstEdge(text);
  if (!read.ok) return read;
  return succeeded(
    read.value === undefined ? without(signal, 'firstEdgeS') : { ...signal, firstEdgeS: read.value },
  );
}

function withOpposite(signal: PlanSignal, text: string, pins: readonly string[]): Result<PlanSignal> {
  const read = parseOpposite(text, pins);
  if (!read.ok) return read;
  return succeeded(read.value ? { ...signal, complement: read.value } : without(signal, 'complement'));
}

/** What a signal does beyond its steady pulse: its sequence over time, its phase to another signal, its first edge. */
export function TimingFields({
  editor,
  hint,
}: {
  editor: SignalEditor;
  hint: (text?: string, fault?: boolean) => void;
}) {
  const { plan, change, part } = usePlanContext();
  const { signal } = editor;
  const others = plan.signals.filter((one) => one.id !== signal.id && kindOf(one).on !== 'input');
  const nameOf = (id: string): string => others.find((one) => one.id === id)?.name ?? id;
  const take = (next: PlanSignal, { renews }: Entry, told: Told) => {
    if (renews) editor.retarget(next, told);
    else change((now) => replacedSignal(now, next), told);
  };
  const entries: Entry[] = [
    {
      label: 'sequence',
      text: sequenceText(signal.sequence),
      hint: '2 periods; rest 6 s · 0 % to 100 % in 2 s · 440 Hz to 880 Hz in 3 s · once at the end, or it repeats',
      read: (text) => withSequence(signal, text),
    },
    {
      label: 'phase',
      text: phaseText(signal.phase, nameOf),
      hint: 'by how much of a period it rises after another signal: 90° after its name ±5°',
      read: (text) => {
        const read = parsePhase(text, others);
        if (!read.ok) return read;
        return succeeded(read.value ? { ...signal, phase: read.value } : without(signal, 'phase'));
      },
    },
    {
      label: 'first edge',
      text: firstEdgeText(signal.firstEdgeS),
      hint: 'how soon the pin must change after its timer starts: within 10 ms',
      read: (text) => withFirstEdge(signal, text),
    },
    {
      label: 'complement',
      renews: true,
      text: oppositeText(signal.complement),
      hint: 'a second pin with the opposite level, and the dead time between them: PB13, 1 µs apart',
      read: (text) => withOpposite(signal, text, part.pins),
    },
  ];
  return (
    <p className={styles.timing}>
      {entries.map((entry) => (
        <TimingField key={entry.label} entry={entry} take={take} hint={hint} />
      ))}
    </p>
  );
}
