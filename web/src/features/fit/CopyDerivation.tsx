'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { useState } from 'react';
import type { SignalEvaluation } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { ask } from '../../worker/engine.ts';
import type { SignalEditor } from './useSignalView.ts';
import styles from './fit.module.css';

/** Copies how the signal is derived, from the oscillator to the pin, as plain text for a review comment. */
export function CopyDerivation({ editor, outcome }: { editor: SignalEditor; outcome: SignalEvaluation }) {
  const { plan } = usePlanContext();
  const [said, setSaid] = useState<string>();
  const copy = async (): Promise<void> => {
    const text = await ask((engine, key) => engine.derivation(key(plan), editor.signal, outcome));
    await navigator.clipboard.writeText(text);
    setSaid('copied');
  };
  return (
    <ButtonBase
      className={styles.copy}
      title="Copy the derivation as plain text"
      onClick={() => {
        copy().catch(() => setSaid('not copied'));
      }}
      onBlur={() => setSaid(undefined)}
    >
      <span aria-live="polite">{said ?? 'copy'}</span>
    </ButtonBase>
  );
}
