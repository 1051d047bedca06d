'use client';

import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { WishField } from '../../components/signals/WishField.tsx';

/** Adds signals to the open plan by saying what they should do. */
export function PlanWishes({ autoFocus = false }: { autoFocus?: boolean }) {
  const { plan, change, report } = usePlanContext();
  return (
    <WishField
      plan={plan}
      autoFocus={autoFocus}
      placeholder="+ add signals in words: “buzzer beeps 2 kHz”, “fan 25 kHz 40 %”, “servo 0.9..2.1 ms” …"
      add={(signals) => change((now) => ({ ...now, signals: [...now.signals, ...signals] }))}
      report={report}
    />
  );
}
