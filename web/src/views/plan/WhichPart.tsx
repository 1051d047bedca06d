'use client';

import { useRef, useState } from 'react';
import type { PartTrial } from '@herzschlag/core/outcome/which-part.ts';
import { printHz, printNumber, printPercent } from '@herzschlag/core/quantity/print.ts';
import { Panel } from '../../frame/Panel.tsx';
import { useBench } from '../../frame/PlanContext.ts';
import { core, searchApart, type Search } from '../../worker/core.ts';
import type { PartFacts } from '../../worker/facts.ts';
import styles from './plan.module.css';

/** So long each part may take, in s. */
const SECONDS = 3;

type Clocked = PartTrial & { phrase: string };

function Bar({ value, of, label }: { value: number; of: number; label: string }) {
  return (
    <span className={styles.bar} role="img" aria-label={label} title={label}>
      <span style={{ width: `${Math.max(2, Math.min(100, (value / of) * 100))}%` }} />
    </span>
  );
}

function Row({
  name,
  trial,
  waiting,
  take,
  own,
}: {
  name: string;
  trial: PartTrial | undefined;
  waiting: boolean;
  take: (trial: PartTrial) => void;
  own: boolean;
}) {
  if (!trial) {
    return (
      <tr>
        <th scope="row">{name}</th>
        <td colSpan={5} className="soft">
          {waiting ? '…' : 'its usual clock does not run'}
        </td>
      </tr>
    );
  }
  const { feasible, optimal, margin, cpu, timersUsed, timersLeft, unable, cpuHz } = trial;
  return (
    <tr data-part={trial.part} data-goes={feasible}>
      <th scope="row">
        {name} <span className="mono soft">{printHz(cpuHz, 4)}</span>
      </th>
      <td className={feasible ? styles.holds : styles.misses}>
        {feasible ? '✓ holds' : optimal ? '✗ does not go' : '– not found'}
      </td>
      {feasible ? (
        <>
          <td>
            <Bar value={margin} of={1} label={`least margin ${printPercent(margin, 3)} of what is ample`} />
          </td>
          <td>
            <Bar
              value={timersLeft}
              of={timersUsed + timersLeft}
              label={`${timersLeft} of ${timersUsed + timersLeft} timers left`}
            />
            <span className="mono"> {printNumber(timersLeft)}</span>
          </td>
          <td className="mono">{printPercent(cpu, 2)}</td>
        </>
      ) : (
        <td colSpan={3} className={`soft ${styles.reason}`}>
          {unable.length > 0 ? `cannot make ${unable.join(', ')}` : 'each goes alone, not all together'}
        </td>
      )}
      <td>
        {feasible && (
          <button type="button" className={styles.way} onClick={() => take(trial)}>
            {own ? 'take its settings' : 'switch'}
          </button>
        )}
      </td>
    </tr>
  );
}

function Clocks({ found, take }: { found: Clocked[] | undefined; take: (trial: PartTrial) => void }) {
  if (!found) return null;
  if (found.length === 0) return <p>No clock setting that was tried lets all signals hold.</p>;
  return (
    <ul className={styles.clocks}>
      {found.slice(0, 5).map((one) => (
        <li key={one.phrase}>
          <button type="button" className={styles.way} onClick={() => take(one)}>
            <span className="mono">{one.phrase}</span>
          </button>{' '}
          <span className="soft">
            least margin {printPercent(one.margin, 3)}, {printPercent(one.cpu, 2)} of the CPU
          </span>
        </li>
      ))}
    </ul>
  );
}

/** The same plan on every part, and under other clock settings of its own: what holds, what is left, switching to it. */
export function WhichPart() {
  const { plan, part, change, report } = useBench();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [parts, setParts] = useState<PartFacts[]>([]);
  const [trials, setTrials] = useState<Record<string, PartTrial | undefined>>({});
  const [clocks, setClocks] = useState<Clocked[]>();
  const [busy, setBusy] = useState(false);
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
  };
  const take = (trial: PartTrial) => {
    core()
      .planOn(plan, trial)
      .then((next) => {
        change(() => next);
        close();
      })
      .catch((error: unknown) => report(String(error)));
  };
  const going = Object.values(trials).filter((trial) => trial?.feasible).length;
  return (
    <>
      <button
        type="button"
        className={styles.way}
        aria-haspopup="dialog"
        onClick={(event) => start(event.currentTarget)}
      >
        Which part?
      </button>
      <Panel button={anchor} close={close}>
        <div className={styles.share} style={{ width: 760 }} data-testid="which-part">
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
                  take={take}
                  own={id === plan.part}
                />
              ))}
            </tbody>
          </table>
          <p className="label">{part.name} under other clock settings</p>
          {busy && !clocks ? (
            <p className="soft">after the parts …</p>
          ) : (
            <Clocks found={clocks} take={take} />
          )}
        </div>
      </Panel>
    </>
  );
}
