'use client';

import { laneColour } from '../../theme/colour.ts';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import { memo } from 'react';
import type { Verdict } from '@herzschlag/core';
import { AddSignal } from '../../components/signals/AddSignal.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { VerdictSign } from '../../components/verdict/VerdictSign.tsx';
import styles from './fit.module.css';

/** The id of the panel that the chosen signal's tab shows. */
export const PANEL_ID = 'signal-panel';

type TabFacts = { id: string; name: string; verdict: Verdict | undefined };

type Props = { tabs: readonly TabFacts[]; chosen: string; show: (id: string) => void };

function isSame(one: Props, other: Props): boolean {
  return (
    one.chosen === other.chosen &&
    one.show === other.show &&
    one.tabs.length === other.tabs.length &&
    one.tabs.every(({ id, name, verdict }, at) => {
      const tab = other.tabs[at];
      return tab?.id === id && tab.name === name && tab.verdict === verdict;
    })
  );
}

/** The tabs alone; they measure themselves when they are rendered, so only when what they show has changed. */
const TabList = memo(function TabList({ tabs, chosen, show }: Props) {
  return (
    <Tabs
      value={chosen}
      onChange={(_, id: string) => show(id)}
      variant="scrollable"
      scrollButtons={false}
      selectionFollowsFocus
      aria-label="Signals"
    >
      {tabs.map(({ id, name, verdict }, index) => (
        <Tab
          key={id}
          value={id}
          id={`tab-${id}`}
          aria-controls={PANEL_ID}
          label={
            <span className={styles.tab}>
              <span className={styles.lane} style={{ background: laneColour(index) }} />
              {name}
              {verdict && <VerdictSign verdict={verdict} />}
            </span>
          }
        />
      ))}
    </Tabs>
  );
}, isSame);

/** The plan's signals side by side, each with its verdict; the arrow keys go through them. */
export function SignalTabs() {
  const { plan, evaluation, signal, showSignal } = usePlanContext();
  const tabs = plan.signals.map(({ id, name }) => ({
    id,
    name,
    verdict: evaluation.signals.find((entry) => entry.signal.id === id)?.verdict,
  }));
  return (
    <div className={styles.tabs}>
      {signal && <TabList tabs={tabs} chosen={signal.id} show={showSignal} />}
      <AddSignal />
    </div>
  );
}
