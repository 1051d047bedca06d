'use client';

import Button, { type ButtonProps } from '@mui/material/Button';
import { useRef } from 'react';

/** A button that lets a person choose one file; the same file can be chosen again. */
export function FileButton({
  accept,
  name,
  take,
  ...button
}: Omit<ButtonProps, 'onClick'> & { accept: string; name: string; take: (file: File) => void }) {
  const picker = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button {...button} onClick={() => picker.current?.click()} />
      <input
        ref={picker}
        type="file"
        accept={accept}
        className="hidden"
        tabIndex={-1}
        aria-label={name}
        data-testid={name.toLowerCase().replace(' ', '-')}
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          event.target.value = '';
          if (file) take(file);
        }}
      />
    </>
  );
}
