'use client';

import { useState } from 'react';
import type { Result } from '@herzschlag/core';
import { TextBox } from '../fields/TextBox.tsx';
import styles from './load.module.css';

/** A value that is typed: taken with Enter or on leaving, put back with Escape, kept with its sentence while it is wrong. */
export function FieldBox<T>({
  label,
  text,
  read,
  take,
  fault,
  placeholder,
}: {
  label: string;
  text: string;
  read: (text: string) => Result<T>;
  take: (value: T) => void;
  fault: (sentence: string | undefined) => void;
  placeholder?: string;
}) {
  const [draft, setDraft] = useState<string>();
  const settle = (): void => {
    if (draft === undefined || draft === text) {
      setDraft(undefined);
      return;
    }
    const value = read(draft);
    if (!value.ok) return fault(value.fault.sentence);
    setDraft(undefined);
    fault(undefined);
    take(value.value);
  };
  return (
    <TextBox
      label={label}
      className={styles.box ?? ''}
      value={draft ?? text}
      placeholder={placeholder}
      aria-invalid={draft !== undefined && !read(draft).ok}
      onFocus={(event) => event.currentTarget.select()}
      onChange={(event) => {
        setDraft(event.target.value);
        const value = read(event.target.value);
        fault(value.ok ? undefined : value.fault.sentence);
      }}
      onBlur={settle}
      onKeyDown={(event) => {
        if (event.key === 'Enter') settle();
        if (event.key === 'Escape' && draft !== undefined) {
          event.stopPropagation();
          setDraft(undefined);
          fault(undefined);
        }
      }}
    />
  );
}
