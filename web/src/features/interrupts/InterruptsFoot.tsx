'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { kindOf, type InterruptReport, type Plan } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { withNewTask } from './edits.ts';
import { InterruptTable, type TableActions } from './InterruptTable.tsx';
import styles from './interrupts.module.css';
import { MainLoop } from './MainLoop.tsx';
import { Polling } from './Polling.tsx';
import { Pulses } from './Pulses.tsx';
import { StringWays } from './StringWays.tsx';

type Props = {
  report: InterruptReport;
  /** The plan as it is drawn, with what is being dragged. */
  plan: Plan;
  selected: number;
  actions: TableActions;
  /** What went wrong last, or was not found. */
  hint: string | undefined;
};

/** Under the timeline: the interrupts as a table, the main loop, the pulses that interrupts make, what is polled. */
export function InterruptsFoot({ report, plan, selected, actions, hint }: Props) {
  const { plan: stored, part } = usePlanContext();
  const sentence = report.rows[selected]?.deadline?.sentence;
  const failing = report.rows.find(({ deadline }) => deadline?.verdict === 'fail')?.deadline;
  return (
    <div className={styles.foot}>
      {report.rows.length === 0 ? (
        <p className="soft">
          No signal of this plan needs an interrupt. Add the interrupts of the rest of the program, such as a
          serial receiver, to see who waits for whom.
        </p>
      ) : (
        <InterruptTable
          report={report}
          plan={plan}
          levels={part.interrupts.levels}
          selected={selected}
          actions={actions}
        />
      )}
      <p className={styles.under}>
        <ButtonBase className={styles.tool} onClick={() => actions.change(withNewTask)}>
          add an interrupt
        </ButtonBase>
        <span className={styles.said} role="status" data-fault={hint !== undefined || failing !== undefined}>
          {hint ?? failing?.sentence ?? sentence}
        </span>
      </p>
      <div className={styles.band}>
        <MainLoop report={report} plan={plan} actions={actions} />
        <Pulses report={report} plan={plan} selected={report.rows[selected]?.signals ?? []} />
        <Polling polls={report.polls} actions={actions} />
      </div>
      {stored.signals.map(
        (signal) => kindOf(signal).ledBits && <StringWays key={signal.id} signal={signal} plan={plan} />,
      )}
    </div>
  );
}
