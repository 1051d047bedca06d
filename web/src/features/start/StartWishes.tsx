'use client';

import { useMemo, useState } from 'react';
import type { Plan } from '@herzschlag/core';
import { ChoiceBox } from '../../components/fields/ChoiceBox.tsx';
import { WishField } from '../../components/signals/WishField.tsx';
import { emptyPlan } from '../../state/empty.ts';
import { useEngine } from '../../worker/useEngine.ts';
import styles from './start.module.css';

/** Begins a plan by saying what its pins should do, on a part that is chosen beside it. */
export function StartWishes({
  usual,
  enter,
  report,
}: {
  /** The part that was used last. */
  usual: string | undefined;
  enter: (plan: Plan) => Promise<void>;
  report: (sentence: string) => void;
}) {
  const { value: parts } = useEngine(['parts'], (engine) => engine.parts(), { report });
  const [picked, setPicked] = useState<string>();
  const part = parts?.find(({ id }) => id === (picked ?? usual)) ?? parts?.[0];
  const plan = useMemo(() => part && emptyPlan(part.id, part.defaultClock), [part]);
  return (
    <section aria-label="Say it" className={styles.say}>
      <div className={styles.sayHead}>
        <h2 className="serif">What should the pins do?</h2>
        <span className="soft">on</span>
        <ChoiceBox className={styles.part ?? ''} label="Part" value={part?.id ?? ''} take={setPicked}>
          {parts?.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </ChoiceBox>
      </div>
      {plan && (
        <WishField
          plan={plan}
          label="What the pins should do"
          placeholder="for example: status LED blinks twice a second, fan 25 kHz 40 %, servo 0.9..2.1 ms; one a line"
          add={(signals) => enter({ ...plan, signals })}
          report={report}
        />
      )}
    </section>
  );
}
