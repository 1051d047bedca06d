'use client';

import InputBase from '@mui/material/InputBase';
import type { InputHTMLAttributes, TextareaHTMLAttributes } from 'react';

/** A line of text to type into. All attributes go to the input itself, the class to the box around it. */
export function TextBox({
  label,
  className = '',
  ...input
}: { label?: string } & InputHTMLAttributes<HTMLInputElement>) {
  return (
    <InputBase
      className={className}
      slotProps={{ input: { ...(label === undefined ? {} : { 'aria-label': label }), ...input } }}
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
      slotProps={{ input: { 'aria-label': label, ...(area as object) } }}
    />
  );
}
