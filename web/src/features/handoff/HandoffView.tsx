'use client';

import { useCallback, useState } from 'react';
import type { CodeChoices as Choices } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { AddSignal } from '../../components/signals/AddSignal.tsx';
import { laneColour } from '../../theme/colour.ts';
import { useEngine } from '../../worker/useEngine.ts';
import { CodeChoices } from './CodeChoices.tsx';
import { FilePane } from './FilePane.tsx';
import { KeptBack } from './KeptBack.tsx';
import { RegisterList } from './RegisterList.tsx';
import { CopyLink } from './CopyLink.tsx';
import { DiffPane } from './DiffPane.tsx';
import { SaveReport } from './SaveReport.tsx';
import { Versions, type Compared } from './Versions.tsx';
import styles from './handoff.module.css';

/** The register that something points at: a row of the list, which may bring its line into view, or lines of the code. */
type Pointing = { rows: readonly string[]; lines?: string; reveal: boolean };

const NOTHING: Pointing = { rows: [], reveal: false };

/** The C files with the derivation in their comments and the registers bit by bit, pointing at each other and at the signals. */
export function HandoffView() {
  const { plan, part, report } = usePlanContext();
  const [pointing, setPointing] = useState<Pointing>(NOTHING);
  const [compared, setCompared] = useState<Compared>();
  // A choice stays when the plan goes to a part that has none of it.
  const options: Required<Choices> = {
    registers: part.deviceHeader ? (plan.code?.registers ?? 'own') : 'own',
    startUp: part.startUpCode && plan.code?.startUp === true,
    allowInterrupts: plan.code?.allowInterrupts === true,
  };
  const { value: work } = useEngine(
    ['workspace', plan],
    (engine, key) => engine.workspace(key(plan), options),
    { keep: true, report },
  );
  const { signals } = plan;
  const colourOf = useCallback(
    (id: string) =>
      laneColour(
        Math.max(
          0,
          signals.findIndex((one) => one.id === id),
        ),
      ),
    [signals],
  );

  if (signals.length === 0) {
    return (
      <div className={styles.empty}>
        <h1 className="serif">Nothing to hand off yet.</h1>
        <p className="soft">
          Once the plan has a signal, its C files and its registers are shown here. Begin with what a pin
          should do.
        </p>
        <AddSignal wide />
      </div>
    );
  }
  const [source] = work?.files ?? [];
  return (
    <div className={styles.handoff}>
      <h1 className="hidden">Hand-off of {plan.name}</h1>
      <section aria-label="Code" className={styles.pane}>
        <div className={styles.bar}>
          <CodeChoices choices={options} />
          <span className={styles.actions}>
            <CopyLink />
            <Versions compare={setCompared} />
          </span>
        </div>
        {compared && <DiffPane compared={compared} close={() => setCompared(undefined)} />}
        {work && !compared && <KeptBack work={work} />}
        {work && !compared && (
          <FilePane
            work={work}
            pointed={pointing.lines}
            reveal={pointing.reveal}
            colourOf={colourOf}
            meet={(registers) => setPointing({ rows: registers, reveal: false })}
          />
        )}
      </section>
      <section aria-label="Registers" className={styles.side}>
        {work && work.registers.length === 0 && <SaveReport choices={options} />}
        {work && work.registers.length > 0 && (
          <RegisterList
            rows={work.registers}
            pointed={pointing.rows}
            linesOf={(register) =>
              source?.marks.filter(({ registers }) => registers.includes(register)).map(({ line }) => line) ??
              []
            }
            nameOf={(id) => signals.find((one) => one.id === id)?.name ?? id}
            colourOf={colourOf}
            point={(register, reveal) =>
              setPointing(register === undefined ? NOTHING : { rows: [register], lines: register, reveal })
            }
          >
            <SaveReport choices={options} />
          </RegisterList>
        )}
        {work && work.before.length > 0 && (
          <div className={styles.before}>
            <h2 className="label">Before this program runs</h2>
            <ul>
              {work.before.map((need) => (
                <li key={need}>{need}</li>
              ))}
            </ul>
          </div>
        )}
      </section>
    </div>
  );
}
