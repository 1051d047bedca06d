'use client';

import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import { useId, type ReactNode } from 'react';
import styles from './load.module.css';

/** A wide sheet over the view, with its title and a button that closes it; Escape closes it as well. */
export function SheetDialog({
  title,
  tools,
  close,
  children,
}: {
  title: string;
  tools?: ReactNode;
  close: () => void;
  children: ReactNode;
}) {
  const id = useId();
  return (
    <Dialog
      open
      maxWidth={false}
      onClose={close}
      aria-labelledby={id}
      slotProps={{ paper: { className: styles.sheet ?? '' } }}
    >
      <div className={styles.sheetBody}>
        <div className={styles.sheetHead}>
          <h2 id={id} className="serif">
            {title}
          </h2>
          {tools}
          <Button color="inherit" onClick={close}>
            Close
          </Button>
        </div>
        {children}
      </div>
    </Dialog>
  );
}
