'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Link from 'next/link';
import { useEffect, useRef, useState, type DragEvent } from 'react';
import type { Plan } from '@herzschlag/core';
import { StorageNotice } from '../../components/frame/Notices.tsx';
import { PulseMark } from '../../components/frame/icons.tsx';
import { ShortcutList, useShortcutList } from '../../components/frame/Shortcuts.tsx';
import { usePlanList } from '../../state/planList.ts';
import { BeginSection } from './BeginSection.tsx';
import { StartWishes } from './StartWishes.tsx';
import { StoredPlans } from './StoredPlans.tsx';
import styles from './start.module.css';
import { useStartActions } from './useStartActions.ts';

function Head() {
  const keys = useShortcutList();
  return (
    <header className={styles.head}>
      <span className={styles.mark}>
        <PulseMark size={40} />
      </span>
      <div>
        <h1 className="serif">Herzschlag</h1>
        <p className={styles.lead}>
          Say what each pin must do. See every way the chip can do it, the numbers, the waveform, and whether
          it meets the target.
        </p>
        <p className={styles.help}>
          <Link href="/guide">Guide and glossary</Link>
          <ButtonBase onClick={keys.show}>
            Keys <kbd>?</kbd>
          </ButtonBase>
        </p>
        <ShortcutList open={keys.open} close={keys.close} />
      </div>
    </header>
  );
}

/** The start page: the demos, the stored plans, a new one, a file. */
export function PlanList() {
  const rows = usePlanList();
  const actions = useStartActions();
  const [over, setOver] = useState(false);
  const { problem, done } = actions;
  const { openLinked } = actions;
  const asked = useRef(false);
  useEffect(() => {
    if (asked.current) return;
    asked.current = true;
    openLinked(window.location.hash);
  }, [openLinked]);
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    const [file] = event.dataTransfer.files;
    if (file) actions.openDropped(file);
  };
  return (
    <main
      className={styles.page}
      data-over={over}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <Head />
      <StorageNotice />
      {problem && (
        <p className={styles.problem} role="alert">
          {problem}
        </p>
      )}
      {done && (
        <p className={styles.done} role="status">
          {done}
        </p>
      )}
      <StartWishes
        usual={(rows?.[0]?.plan as Partial<Plan> | undefined)?.part}
        enter={(plan) => actions.enter(plan, 'plan')}
        report={actions.report}
      />
      <BeginSection actions={actions} />
      <StoredPlans rows={rows} actions={actions} />
    </main>
  );
}
