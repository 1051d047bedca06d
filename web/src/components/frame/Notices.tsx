'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { useSyncExternalStore } from 'react';
import type { Plan } from '@herzschlag/core';
import { savePlanFile } from '../../state/file.ts';
import { useStorage } from '../../state/storage.ts';
import { engineNotice } from '../../worker/engine.ts';
import styles from './frame.module.css';

/** A sentence across the page with what can be done about it. */
export function Notice({
  text,
  act,
  action,
  kind = 'alert',
}: {
  text: string;
  action?: string;
  act?: () => void;
  kind?: 'alert' | 'status';
}) {
  return (
    <p className={kind === 'alert' ? styles.trouble : styles.note} role={kind}>
      <span>{text}</span>
      {action && act && <ButtonBase onClick={act}>{action}</ButtonBase>}
    </p>
  );
}

/** Says that the browser stores nothing, for as long as it does not. */
export function StorageNotice({ plan }: { plan?: Plan }) {
  const storage = useStorage();
  if (storage.kind === 'browser') return null;
  const reason = storage.reason.replace(/\.$/, '');
  return (
    <Notice
      text={`This browser stores nothing here: ${reason}. Plans are kept in this page until it is closed; save them to files.`}
      {...(plan ? { action: 'save this plan to a file', act: () => savePlanFile(plan) } : {})}
    />
  );
}

/** Says that the worker was lost and started again. */
export function EngineNotice() {
  const text = useSyncExternalStore(engineNotice.subscribe, engineNotice.get, () => undefined);
  return text === undefined ? null : (
    <Notice kind="status" text={text} action="dismiss" act={engineNotice.dismiss} />
  );
}
