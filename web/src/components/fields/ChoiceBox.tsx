'use client';

import InputBase from '@mui/material/InputBase';
import NativeSelect from '@mui/material/NativeSelect';
import type { ChangeEvent, ReactNode } from 'react';

/** A choice of one of several options, with the browser's own list. */
export function ChoiceBox({
  label,
  className = '',
  value,
  take,
  children,
  ...select
}: {
  label?: string;
  className?: string;
  value: number | string;
  take: (value: string) => void;
  children: ReactNode;
  'data-rung'?: string;
}) {
  return (
    <NativeSelect
      className={className}
      input={<InputBase />}
      value={value}
      onChange={(event: ChangeEvent<HTMLSelectElement>) => take(event.target.value)}
      inputProps={{ ...(label === undefined ? {} : { 'aria-label': label }), ...select }}
    >
      {children}
    </NativeSelect>
  );
}
