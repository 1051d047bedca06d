'use client';

import IconButton from '@mui/material/IconButton';
import Button from '@mui/material/Button';
import Tooltip from '@mui/material/Tooltip';
import { useState } from 'react';
import { FILES, savePlanFile } from '../../state/file.ts';
import type { OpenPlan } from '../../state/usePlan.ts';
import { ClockEditor } from './ClockEditor.tsx';
import { FileButton } from './FileButton.tsx';
import { TurnIcon } from './icons.tsx';
import { usePlanContext } from './PlanContext.ts';
import { TextBox } from '../fields/TextBox.tsx';
import { PulseBadge } from './PulseBadge.tsx';
import styles from './frame.module.css';

function PlanName() {
  const { plan, change } = usePlanContext();
  const [draft, setDraft] = useState<string>();
  const settle = () => {
    const name = draft?.trim().slice(0, 120);
    setDraft(undefined);
    if (name && name !== plan.name) change((now) => ({ ...now, name }));
  };
  return (
    <TextBox
      className={styles.name ?? ''}
      label="Name of the plan"
      value={draft ?? plan.name}
      size={Math.max(6, (draft ?? plan.name).length)}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={settle}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') setDraft(undefined);
      }}
    />
  );
}

function Turn({ name, keys, turn }: { name: 'Undo' | 'Redo'; keys: string; turn: (() => void) | undefined }) {
  return (
    <Tooltip title={`${name}, ${keys}`}>
      <span>
        <IconButton
          className={styles.round ?? ''}
          aria-label={name}
          disabled={!turn}
          {...(turn ? { onClick: turn } : {})}
        >
          <TurnIcon forward={name === 'Redo'} />
        </IconButton>
      </span>
    </Tooltip>
  );
}

/** The plan's name, its part and clock in one phrase, undo and redo, the file, and the pulse. */
export function TopBar({ open, take }: { open: OpenPlan; take: (file: File) => void }) {
  const { plan, evaluation, showFailure } = usePlanContext();

  return (
    <header className={styles.top}>
      <PlanName />
      <ClockEditor phrase={evaluation.clock} />
      <span className={styles.space} />
      <span className={styles.file}>
        <FileButton color="inherit" accept={FILES} name="Plan file" take={take}>
          Open…
        </FileButton>
        <Button color="inherit" onClick={() => savePlanFile(plan)}>
          Save file
        </Button>
      </span>
      <span className={styles.file}>
        <Turn name="Undo" keys="Ctrl+Z" turn={open.undo} />
        <Turn name="Redo" keys="Ctrl+Shift+Z" turn={open.redo} />
      </span>
      <PulseBadge evaluation={evaluation} show={showFailure} />
    </header>
  );
}
