'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { useState } from 'react';
import { Panel } from '../../components/frame/Panel.tsx';
import { ProgramPanel } from '../../components/signals/ProgramPanel.tsx';
import type { SignalEditor } from './useSignalView.ts';
import styles from './fit.module.css';

/** Decodes code beside a signal: what it really does, what is not enabled, and the slip that explains the difference. */
export function CodeReader({ editor }: { editor: SignalEditor }) {
  const [anchor, setAnchor] = useState<HTMLElement>();
  const close = () => setAnchor(undefined);
  return (
    <>
      <ButtonBase
        className={styles.readCode}
        aria-haspopup="dialog"
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        decode code …
      </ButtonBase>
      <Panel button={anchor} name="Decode code" side="right" close={close}>
        <ProgramPanel compared={{ signal: editor.signal, choose: editor.choose }} close={close} />
      </Panel>
    </>
  );
}
