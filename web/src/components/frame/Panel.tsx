'use client';

import Popover from '@mui/material/Popover';
import type { ReactNode } from 'react';

/** A sheet that opens below the button it belongs to, flush with its left or right edge; open while there is a button. */
export function Panel({
  button,
  side = 'left',
  close,
  children,
}: {
  button: HTMLElement | undefined;
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
    >
      {children}
    </Popover>
  );
}
