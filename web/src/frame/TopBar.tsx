'use client';

import Button from '@mui/material/Button';
import Tooltip from '@mui/material/Tooltip';
import { useRef, useState } from 'react';
import { useRouter } from 'next/navigation';
import { openPlanFile, savePlan } from '../store/file.ts';
import { keepPlan } from '../store/plans.ts';
import type { OpenPlan } from '../store/usePlan.ts';
import { ClockEditor } from './ClockEditor.tsx';
import { TurnIcon } from './icons.tsx';
import { useBench } from './PlanContext.ts';
import { PulseBadge } from './PulseBadge.tsx';
import styles from './frame.module.css';

function PlanName() {
  const { plan, change } = useBench();
  const [draft, setDraft] = useState<string>();
  const settle = () => {
    const name = draft?.trim().slice(0, 120);
    setDraft(undefined);
    if (name && name !== plan.name) change((now) => ({ ...now, name }));
  };
  return (
    <input
      className={styles.name}
      aria-label="Name of the plan"
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

/** The plan's name, its part and clock in one phrase, undo and redo, the file, and the pulse. */
export function TopBar({ open, clock }: { open: OpenPlan; clock: string }) {
  const { plan, outcome, showSignal, report } = useBench();
  const router = useRouter();
  const picker = useRef<HTMLInputElement>(null);

  const take = async (file: File) => {
    const read = await openPlanFile(file);
    if (!read.ok) return report(read.error);
    report(undefined);
    router.push(`/plans/${await keepPlan(read.plan)}/fit`);
  };

  return (
    <header className={styles.top}>
      <PlanName />
      <ClockEditor phrase={clock} />
      <span className={styles.space} />
      <span className={styles.file}>
        <Button color="inherit" onClick={() => picker.current?.click()}>
          Open…
        </Button>
        <Button color="inherit" onClick={() => savePlan(plan)}>
          Save file
        </Button>
        <input
          ref={picker}
          type="file"
          accept=".json,application/json"
          className="hidden"
          tabIndex={-1}
          aria-label="Plan file"
          data-testid="plan-file"
          onChange={(event) => {
            const [file] = event.target.files ?? [];
            event.target.value = '';
            if (file) take(file).catch((error: unknown) => report(String(error)));
          }}
        />
      </span>
      <span className={styles.file}>
        <Tooltip title="Undo, Ctrl+Z">
          <span>
            <button
              type="button"
              className={styles.round}
              aria-label="Undo"
              disabled={!open.undo}
              onClick={open.undo}
            >
              <TurnIcon />
            </button>
          </span>
        </Tooltip>
        <Tooltip title="Redo, Ctrl+Shift+Z">
          <span>
            <button
              type="button"
              className={styles.round}
              aria-label="Redo"
              disabled={!open.redo}
              onClick={open.redo}
            >
              <TurnIcon forward />
            </button>
          </span>
        </Tooltip>
      </span>
      {outcome && <PulseBadge outcome={outcome} show={showSignal} />}
    </header>
  );
}
