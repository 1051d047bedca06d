'use client';

import { useRef, useState } from 'react';
import { type PartTrial, type Plan, printNumber } from '@herzschlag/core';
import { Panel } from '../../components/frame/Panel.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { core, searchApart, type Search } from '../../worker/core.ts';
import type { PartFacts } from '../../worker/facts.ts';
import { Clocks, Row, type Clocked } from './PartTrials.tsx';
import styles from './plan.module.css';
import { SwitchPart } from './SwitchPart.tsx';

/** So long each part may take, in s. */
const SECONDS = 3;

/** The same plan on every part, and under other clock settings of its own: what holds, what is left, switching to it. */
export function WhichPart() {
  const { plan, part, change, report } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [parts, setParts] = useState<PartFacts[]>([]);
  const [trials, setTrials] = useState<Record<string, PartTrial | undefined>>({});
  const [clocks, setClocks] = useState<Clocked[]>();
  const [busy, setBusy] = useState(false);
  const [chosen, setChosen] = useState<{ trial: PartTrial; next: Plan }>();
  const running = useRef<Search<void>>(undefined);

  const start = (button: HTMLElement) => {
    setAnchor(button);
    setTrials({});
    setClocks(undefined);
    setBusy(true);
    const own = searchApart<void>(async (remote) => {
      const all = await remote.parts();
      const known = all.some(({ id }) => id === plan.part) ? all : [part, ...all];
      setParts([
        ...known.filter(({ id }) => id === plan.part),
        ...known.filter(({ id }) => id !== plan.part),
      ]);
      for (const { id } of known) {
        const [trial] = await remote.tryPart(plan, id, SECONDS);
        setTrials((before) => ({ ...before, [id]: trial }));
      }
      setClocks(await remote.searchClocks(plan, SECONDS));
    });
    running.current = own;
    own.result.catch((error: unknown) => report(String(error))).finally(() => setBusy(false));
  };
  const close = () => {
    running.current?.stop();
    setAnchor(undefined);
    setChosen(undefined);
  };
  const choose = (trial: PartTrial) => {
    core()
      .planOn(plan, trial)
      .then((next) => setChosen({ trial, next }))
      .catch((error: unknown) => report(String(error)));
  };
  const going = Object.values(trials).filter((trial) => trial?.feasible).length;
  return (
    <>
      <button
        type="button"
        className={styles.route}
        aria-haspopup="dialog"
        onClick={(event) => start(event.currentTarget)}
      >
        Which part?
      </button>
      <Panel button={anchor} close={close}>
        {chosen && (
          <SwitchPart
            next={chosen.next}
            name={parts.find(({ id }) => id === chosen.trial.part)?.name ?? chosen.trial.part}
            cpuHz={chosen.trial.cpuHz}
            take={() => {
              change(() => chosen.next);
              close();
            }}
            back={() => setChosen(undefined)}
          />
        )}
        <div
          className={styles.share}
          style={{ width: 760 }}
          data-testid="which-part"
          hidden={chosen !== undefined}
        >
          <p className="label">The same plan on every part</p>
          <p aria-live="polite">
            <b className="serif">
              {printNumber(going)} of {printNumber(parts.length)} parts can do it
            </b>
            {busy ? ' so far …' : '.'} Pins are free where a part has none of that name.
          </p>
          <table className={`${styles.uses} ${styles.parts}`}>
            <thead>
              <tr className="label">
                <th>Part</th>
                <td>Verdict</td>
                <td>Least margin</td>
                <td>Timers left</td>
                <td>CPU</td>
                <td />
              </tr>
            </thead>
            <tbody>
              {parts.map(({ id, name }) => (
                <Row
                  key={id}
                  name={name}
                  trial={trials[id]}
                  waiting={!(id in trials)}
                  take={choose}
                  own={id === plan.part}
                />
              ))}
            </tbody>
          </table>
          <p className="label">{part.name} under other clock settings</p>
          {busy && !clocks ? (
            <p className="soft">after the parts …</p>
          ) : (
            <Clocks found={clocks} take={choose} />
          )}
        </div>
      </Panel>
    </>
  );
}
