'use client';

import { type PartTrial, printHz, printNumber, printPercent } from '@herzschlag/core';
import styles from './plan.module.css';

/** A trial with the words of its clock. */
export type Clocked = PartTrial & { phrase: string };

function Bar({ value, of, label }: { value: number; of: number; label: string }) {
  return (
    <span className={styles.bar} role="img" aria-label={label} title={label}>
      <span style={{ width: `${Math.max(2, Math.min(100, (value / of) * 100))}%` }} />
    </span>
  );
}

/** A part's row: whether the plan goes there and what it leaves. */
export function Row({
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
      <td className={feasible ? styles.pass : styles.fail}>
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
          <button type="button" className={styles.route} onClick={() => take(trial)}>
            {own ? 'take its settings' : 'switch'}
          </button>
        )}
      </td>
    </tr>
  );
}

/** Clock settings under which the whole plan goes. */
export function Clocks({ found, take }: { found: Clocked[] | undefined; take: (trial: PartTrial) => void }) {
  if (!found) return null;
  if (found.length === 0) return <p>No clock setting that was tried lets all signals hold.</p>;
  return (
    <ul className={styles.clocks}>
      {found.slice(0, 5).map((one) => (
        <li key={one.phrase}>
          <button type="button" className={styles.route} onClick={() => take(one)}>
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
