'use client';

import Button from '@mui/material/Button';
import { useState } from 'react';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { linkOf } from '../../state/link.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import styles from './versions.module.css';

/** Copies a link that carries the plan, for a message or a review. */
export function CopyLink() {
  const { now, report } = usePlanContext();
  const [copied, setCopied] = useState(false);
  const copy = async (): Promise<void> => {
    const link = await linkOf(now(), window.location.origin);
    if (!link.ok) return report(link.fault.sentence);
    await navigator.clipboard.writeText(link.value);
    return setCopied(true);
  };
  return (
    <Button
      color="inherit"
      className={styles.open}
      onBlur={() => setCopied(false)}
      onClick={() => {
        copy().catch((error: unknown) => report(sentenceOfError(error)));
      }}
    >
      <span aria-live="polite">{copied ? 'link copied' : 'Copy a link'}</span>
    </Button>
  );
}
