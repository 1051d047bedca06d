'use client';

import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import { SHORTCUTS } from './shortcuts.ts';
import { isTyping } from './useShortcuts.ts';
import styles from './frame.module.css';

/** Whether the list of keys is shown; “?” shows it, wherever nothing is typed. */
export function useShortcutList(): { open: boolean; show: () => void; close: () => void } {
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const press = (event: KeyboardEvent): void => {
      if (event.key !== '?' || event.ctrlKey || event.metaKey || isTyping(event.target)) return;
      event.preventDefault();
      setOpen(true);
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, []);
  return { open, show: () => setOpen(true), close: () => setOpen(false) };
}

/** All keys, by where they work, and the way to the guide. */
export function ShortcutList({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Dialog open={open} onClose={close} maxWidth="md" aria-labelledby="shortcuts">
      <DialogContent className={styles.shortcuts ?? ''}>
        <header>
          <h2 id="shortcuts" className="serif">
            Keys
          </h2>
          <Link href="/guide">Guide and glossary</Link>
          <Button autoFocus variant="quiet" onClick={close}>
            Close
          </Button>
        </header>
        <div>
          {SHORTCUTS.map(({ where, keys }) => (
            <section key={where}>
              <h3 className="label">{where}</h3>
              <dl>
                {keys.map(([key, does]) => (
                  <div key={key}>
                    <dt>
                      {key.split(' ').map((one) => (
                        <kbd key={one}>{one}</kbd>
                      ))}
                    </dt>
                    <dd>{does}</dd>
                  </div>
                ))}
              </dl>
            </section>
          ))}
        </div>
      </DialogContent>
    </Dialog>
  );
}
