'use client';

import InputBase from '@mui/material/InputBase';
import type { InputHTMLAttributes, TextareaHTMLAttributes } from 'react';

/** The most characters of a line, and of several lines; what is pasted beyond them is cut off. */
const LONGEST = 2000;
const LONGEST_TEXT = 200_000;

/** A line of text to type into. All attributes go to the input itself, the class to the box around it. */
export function TextBox({
  label,
  className = '',
  ...input
}: { label?: string } & InputHTMLAttributes<HTMLInputElement>) {
  return (
    <InputBase
      className={className}
      slotProps={{
        input: { maxLength: LONGEST, ...(label === undefined ? {} : { 'aria-label': label }), ...input },
      }}
    />
  );
}

/** A text that is one line as a rule and grows with more of them. */
export function GrowingText({
  label,
  className = '',
  autoFocus = false,
  ...area
}: { label: string } & TextareaHTMLAttributes<HTMLTextAreaElement>) {
  return (
    <InputBase
      multiline
      maxRows={8}
      autoFocus={autoFocus}
      className={className}
      slotProps={{ input: { 'aria-label': label, maxLength: LONGEST_TEXT, ...(area as object) } }}
    />
  );
}

/** Several lines of text to type into. */
export function TextLines({
  label,
  className = '',
  rows,
  autoFocus = false,
  ...area
}: { label: string; rows: number } & TextareaHTMLAttributes<HTMLTextAreaElement>) {
  return (
    <InputBase
      multiline
      rows={rows}
      autoFocus={autoFocus}
      className={className}
      slotProps={{ input: { 'aria-label': label, maxLength: LONGEST_TEXT, ...(area as object) } }}
    />
  );
}
