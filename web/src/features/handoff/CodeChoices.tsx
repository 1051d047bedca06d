'use client';

import type { ReactNode } from 'react';
import type { CodeChoices as Choices } from '@herzschlag/core';
import { ChoiceBox } from '../../components/fields/ChoiceBox.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import styles from './handoff.module.css';

function Choice({ label, children }: { label: string; children: ReactNode }) {
  return (
    <span className={styles.choice}>
      <span aria-hidden="true">{label}</span>
      {children}
    </span>
  );
}

/** What a part's code can be asked for; it is kept in the plan. */
export function CodeChoices({ choices }: { choices: Required<Choices> }) {
  const { part, change } = usePlanContext();
  const { registers, startUp, allowInterrupts } = choices;
  const choose = (chosen: Choices) => change((now) => ({ ...now, code: { ...now.code, ...chosen } }));
  return (
    <div className={styles.choices} role="group" aria-label="Choices for the code">
      {part.deviceHeader && (
        <Choice label="Registers">
          <ChoiceBox
            label="Names of registers"
            value={registers}
            take={(value) => choose({ registers: value === 'device' ? 'device' : 'own' })}
          >
            <option value="own">by address</option>
            <option value="device">device header</option>
          </ChoiceBox>
        </Choice>
      )}
      {part.startUpCode && (
        <Choice label="Start-up">
          <ChoiceBox
            label="Start-up"
            value={startUp ? 'code' : 'elsewhere'}
            take={(value) => choose({ startUp: value === 'code' })}
          >
            <option value="elsewhere">elsewhere</option>
            <option value="code">in this code</option>
          </ChoiceBox>
        </Choice>
      )}
      <Choice label="Interrupts">
        <ChoiceBox
          label="Interrupts"
          value={allowInterrupts ? 'start' : 'program'}
          take={(value) => choose({ allowInterrupts: value === 'start' })}
        >
          <option value="program">main enables</option>
          <option value="start">start enables</option>
        </ChoiceBox>
      </Choice>
    </div>
  );
}
