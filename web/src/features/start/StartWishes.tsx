'use client';

import { useMemo, useState } from 'react';
import type { Plan } from '@herzschlag/core';
import { ChoiceBox } from '../../components/fields/ChoiceBox.tsx';
import { WishField } from '../../components/signals/WishField.tsx';
import { emptyPlan } from '../../state/empty.ts';
import { useKeptParts } from '../../state/own-parts.ts';
import { useEngine } from '../../worker/useEngine.ts';
import styles from './start.module.css';

/** What stands for a part from a file among the parts to choose from, which may have one of the same id. */
function keptValue(id: string): string {
  return `file ${id}`;
}

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
  const kept = useKeptParts(report);
  const isShipped = parts?.some(({ id }) => id === usual) !== false;
  const chosen = picked ?? (usual === undefined || isShipped ? usual : keptValue(usual));
  const fromFile = kept.find(({ id }) => keptValue(id) === chosen);
  const { value: read } = useEngine(
    ['part file', fromFile?.text],
    (engine) => engine.readPart(fromFile?.text ?? ''),
    { enabled: fromFile !== undefined, report },
  );
  const part = fromFile ? undefined : (parts?.find(({ id }) => id === chosen) ?? parts?.[0]);
  const own = fromFile && read?.ok && read.value.id === fromFile.id ? read.value : undefined;
  const plan = useMemo(
    () => (own ? emptyPlan(own.id, own.defaultClock, own) : part && emptyPlan(part.id, part.defaultClock)),
    [part, own],
  );
  return (
    <section aria-label="Say it" className={styles.say}>
      <div className={styles.sayHead}>
        <h2 className="serif">What should the pins do?</h2>
        <span className="soft">on</span>
        <ChoiceBox
          className={styles.part ?? ''}
          label="Part"
          value={fromFile ? keptValue(fromFile.id) : (part?.id ?? '')}
          take={setPicked}
        >
          {parts?.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
          {parts !== undefined &&
            kept.map(({ id, name }) => (
              <option key={keptValue(id)} value={keptValue(id)}>
                {name}, from a file
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
