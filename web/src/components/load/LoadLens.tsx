'use client';

import type { ReactNode } from 'react';
import type { LoadReport } from '@herzschlag/core';
import { unbroken } from '../text/unbroken.ts';
import styles from './load.module.css';
import { LoadPicture } from './LoadPicture.tsx';

/** What a load does with a waveform: a figure, a picture, facts, and what to mind. */
export function LoadLens({ report, children }: { report: LoadReport; children?: ReactNode }) {
  const { headline, aside, facts, advice, picture } = report;
  return (
    <div className={styles.lens} data-testid="load-lens">
      <div className={styles.top}>
        <div>
          <div className={styles.headline} data-testid="load-headline">
            {headline}
          </div>
          {aside !== undefined && <div className={styles.aside}>{unbroken(aside)}</div>}
        </div>
        <LoadPicture picture={picture} />
      </div>
      {children}
      <dl className={styles.facts}>
        {facts.map(({ label, text }) => [
          <dt key={label}>{label}</dt>,
          <dd key={`${label} text`}>{unbroken(text)}</dd>,
        ])}
      </dl>
      {advice.map((text) => (
        <p key={text} className={styles.advice}>
          {unbroken(text)}
        </p>
      ))}
    </div>
  );
}
