'use client';

import { useEffect, useRef, useState, type PointerEvent } from 'react';
import type { Result } from '@herzschlag/core';
import { TextBox } from '../../components/fields/TextBox.tsx';
import styles from './interrupts.module.css';

/** Pixels of a drag by which a number of cycles doubles. */
const DOUBLES = 90;

/** A value of a row that can be typed; numbers also move with the arrow keys and by dragging their handle. */
export function EditCell<T>({
  label,
  text,
  read,
  take,
  preview,
  number,
  hint,
}: {
  label: string;
  text: string;
  read: (text: string) => Result<T>;
  take: (value: T) => void;
  /** Shows a value while it is dragged; undefined ends that. */
  preview?: (value: T | undefined) => void;
  /** The value as a number, where it can be moved by keys and by dragging, and the value of another number. */
  number?: { value: number; of: (value: number) => T };
  hint: (sentence: string | undefined) => void;
}) {
  const [draft, setDraft] = useState<string>();
  const drag = useRef<{ x: number; from: number; now: number; of: (value: number) => T }>(undefined);
  const settle = (): void => {
    if (draft === undefined || draft.trim() === text) {
      setDraft(undefined);
      return;
    }
    const value = read(draft);
    if (!value.ok) return hint(value.fault.sentence);
    setDraft(undefined);
    hint(undefined);
    take(value.value);
  };
  // The plan follows a key a moment later; the next key counts on from what the one before asked for.
  const steppedTo = useRef<number>(undefined);
  const shown = number?.value;
  useEffect(() => {
    if (steppedTo.current === shown) steppedTo.current = undefined;
  }, [shown]);
  const step = (by: number): void => {
    if (!number) return;
    steppedTo.current = Math.max(0, (steppedTo.current ?? number.value) + by);
    take(number.of(steppedTo.current));
  };
  const moved = (event: PointerEvent): number => {
    const { x = 0, from = 0 } = drag.current ?? {};
    return Math.max(0, Math.round(Math.max(1, from) * 2 ** ((event.clientX - x) / DOUBLES)));
  };
  return (
    <span className={styles.edit}>
      <TextBox
        label={label}
        value={draft ?? text}
        aria-invalid={draft !== undefined && !read(draft).ok}
        onFocus={(event) => event.currentTarget.select()}
        onChange={(event) => {
          setDraft(event.target.value);
          const value = read(event.target.value);
          hint(value.ok ? undefined : value.fault.sentence);
        }}
        onBlur={() => {
          steppedTo.current = undefined;
          settle();
        }}
        onKeyDown={(event) => {
          if (event.key === 'Enter') settle();
          if (event.key === 'Escape') {
            setDraft(undefined);
            hint(undefined);
          }
          if (number && draft === undefined && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
            event.preventDefault();
            step((event.key === 'ArrowUp' ? 1 : -1) * (event.shiftKey ? 10 : 1));
          }
        }}
      />
      {number && preview && (
        <span
          className={styles.grip}
          title="Drag to change"
          aria-hidden="true"
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            drag.current = { x: event.clientX, from: number.value, now: number.value, of: number.of };
          }}
          onPointerMove={(event) => {
            if (!drag.current) return;
            const now = moved(event);
            if (now === drag.current.now) return;
            drag.current.now = now;
            preview(drag.current.of(now));
          }}
          onPointerUp={(event) => {
            if (!drag.current) return;
            const { from, of } = drag.current;
            const value = moved(event);
            drag.current = undefined;
            preview(undefined);
            if (value !== from) take(of(value));
          }}
          onPointerCancel={() => {
            drag.current = undefined;
            preview(undefined);
          }}
        >
          ⟷
        </span>
      )}
    </span>
  );
}
