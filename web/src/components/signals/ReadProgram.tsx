'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Dialog from '@mui/material/Dialog';
import { useState } from 'react';
import { ProgramPanel } from './ProgramPanel.tsx';
import styles from './signals.module.css';

/** A program, or a field for one, and what it does. */
export function ProgramDialog({ text, close }: { text?: string; close: () => void }) {
  return (
    <Dialog open onClose={close} maxWidth={false} aria-label="Read a program">
      <ProgramPanel close={close} {...(text === undefined ? {} : { begin: text })} />
    </Dialog>
  );
}

/** Reads a program that somebody has, and makes signals of what it does. */
export function ReadProgram() {
  const [open, setOpen] = useState(false);
  const close = () => setOpen(false);
  return (
    <>
      <ButtonBase className={styles.add} aria-haspopup="dialog" onClick={() => setOpen(true)}>
        read a program …
      </ButtonBase>
      {open && <ProgramDialog close={close} />}
    </>
  );
}
