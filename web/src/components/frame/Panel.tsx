'use client';

import Popover from '@mui/material/Popover';
import type { ReactNode } from 'react';

/** A sheet that opens below the button it belongs to, flush with its left or right edge; open while there is a button. */
export function Panel({
  button,
  name,
  side = 'left',
  close,
  children,
}: {
  button: HTMLElement | undefined;
  /** What the sheet is called, for a screen reader. */
  name: string;
  side?: 'left' | 'right';
  close: () => void;
  children: ReactNode;
}) {
  return (
    <Popover
      open={button !== undefined}
      anchorEl={button ?? null}
      onClose={close}
      anchorOrigin={{ vertical: 'bottom', horizontal: side }}
      transformOrigin={{ vertical: -6, horizontal: side }}
      slotProps={{ paper: { role: 'dialog', 'aria-label': name } }}
    >
      {children}
    </Popover>
  );
}
