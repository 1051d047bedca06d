'use client';

import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import { AddSignal } from '../../components/signals/AddSignal.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { VerdictSign } from '../../components/verdict/VerdictSign.tsx';
import { laneColour } from '../../theme/lanes.ts';
import styles from './fit.module.css';

/** The id of the panel that the chosen signal's tab shows. */
export const PANEL_ID = 'signal-panel';

/** The plan's signals side by side, each with its verdict; the arrow keys go through them. */
export function SignalTabs() {
  const { plan, evaluation, signal, showSignal } = usePlanContext();
  return (
    <div className={styles.tabs}>
      {signal && (
        <Tabs
          value={signal.id}
          onChange={(_, id: string) => showSignal(id)}
          variant="scrollable"
          scrollButtons={false}
          selectionFollowsFocus
          aria-label="Signals"
        >
          {plan.signals.map((one, index) => {
            const evaluated = evaluation.signals.find((entry) => entry.signal.id === one.id);
            return (
              <Tab
                key={one.id}
                value={one.id}
                id={`tab-${one.id}`}
                aria-controls={PANEL_ID}
                label={
                  <span className={styles.tab}>
                    <span className={styles.lane} style={{ background: laneColour(index) }} />
                    {one.name}
                    {evaluated && <VerdictSign verdict={evaluated.verdict} />}
                  </span>
                }
              />
            );
          })}
        </Tabs>
      )}
      <AddSignal />
    </div>
  );
}
