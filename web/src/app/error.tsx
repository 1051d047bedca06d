'use client';

import Button from '@mui/material/Button';
import styles from '../components/frame/frame.module.css';

/** What is shown when a page has stopped on an error of ours; plans are kept all the same. */
export default function ErrorPage({ error, reset }: { error: Error; reset: () => void }) {
  return (
    <main className={styles.middle}>
      <h1 className="serif">This page stopped because of an error in Herzschlag.</h1>
      <p className="soft">{error.message}</p>
      <p>Your plans are stored in this browser.</p>
      <Button variant="contained" onClick={reset}>
        Try again
      </Button>
    </main>
  );
}
