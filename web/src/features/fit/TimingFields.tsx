'use client';

import { useState } from 'react';
import {
  type PlanSignal,
  type Result,
  succeeded,
  failed,
  parsePhase,
  parseQuantity,
  parseSequence,
  phaseText,
  printSeconds,
  requirementOf,
  sequenceText,
  stagesOf,
} from '@herzschlag/core';
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
      hint(read.fault.sentence, true);
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
  try {
    stagesOf(read.value, requirementOf(signal));
  } catch (error) {
    return failed(error instanceof Error ? error.message : String(error));
  }
  return succeeded({ ...signal, sequence: read.value });
}

function withFirstEdge(signal: PlanSignal, text: string): Result<PlanSignal> {
  if (/^\s*(any time)?\s*$/i.test(text)) return succeeded(without(signal, 'firstEdgeS'));
  const read = parseQuantity(text.replace(/^\s*within\s+/i, ''), 'time');
  return read.ok ? succeeded({ ...signal, firstEdgeS: read.value.value.valueOf() }) : read;
}

const OPPOSITE = /^(?:on\s+)?(\S+?)(?:\s*,)?\s+(?:dead\s+)?(.+?)(?:\s+(?:apart|dead))?$/i;

function withOpposite(signal: PlanSignal, text: string, pins: readonly string[]): Result<PlanSignal> {
  if (/^\s*(none)?\s*$/i.test(text)) return succeeded(without(signal, 'complement'));
  const match = OPPOSITE.exec(text.trim());
  const pin = pins.find((one) => one.toLowerCase() === match?.[1]?.toLowerCase());
  if (!match || !pin) {
    return failed(`“${text.slice(0, 40)}” is not a pin and a dead time; enter for example PB13, 1 µs apart.`);
  }
  const read = parseQuantity(match[2] ?? '', 'time');
  if (!read.ok) return read;
  return succeeded({ ...signal, complement: { pin, deadS: read.value.value.valueOf() } });
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
  const others = plan.signals.filter((one) => one.id !== signal.id && one.kind !== 'measure');
  const nameOf = (id: string): string => others.find((one) => one.id === id)?.name ?? id;
  const take = (next: PlanSignal, { renews }: Entry) => {
    if (renews) {
      editor.retarget(next);
      return;
    }
    change((now) => ({ ...now, signals: now.signals.map((one) => (one.id === next.id ? next : one)) }));
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
      text: signal.firstEdgeS === undefined ? 'any time' : `within ${printSeconds(signal.firstEdgeS)}`,
      hint: 'how soon the pin must change after its timer starts: within 10 ms',
      read: (text) => withFirstEdge(signal, text),
    },
    {
      label: 'complement',
      renews: true,
      text: signal.complement
        ? `${signal.complement.pin}, ${printSeconds(signal.complement.deadS)} apart`
        : 'none',
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
