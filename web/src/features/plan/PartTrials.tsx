'use client';

import Button from '@mui/material/Button';
import TableRow from '@mui/material/TableRow';
import TableCell from '@mui/material/TableCell';
import { type PartTrial, printHz, printNumber, printPercent } from '@herzschlag/core';
import { verdictClass } from '../../components/verdict/VerdictSign.tsx';
import { unbroken } from '../../components/text/unbroken.ts';
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

/** The first reason, and how many more there are. */
function reasonText([
  first = 'no assignment was found within the search limit',
  ...more
]: readonly string[]): string {
  return more.length === 0 ? first : `${first} And ${more.length} more.`;
}

/** A part's row: whether the plan fits there and what it leaves, or why it does not fit. */
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
      <TableRow>
        <TableCell component="th" scope="row">
          {name}
        </TableCell>
        <TableCell component="td" colSpan={5} className="soft">
          {waiting ? '…' : 'its default clock is not legal'}
        </TableCell>
      </TableRow>
    );
  }
  const { assigned, feasible, optimal, margin, cpu, timersUsed, timersLeft, reasons, cpuHz } = trial;
  const refused = assigned ? '✗ fails' : optimal ? '✗ does not fit' : '– not found';
  return (
    <TableRow data-part={trial.part} data-fits={feasible}>
      <TableCell component="th" scope="row">
        {name} <span className="mono soft">{printHz(cpuHz, 4)}</span>
      </TableCell>
      <TableCell
        component="td"
        className={`${styles.verdict} ${verdictClass(feasible ? 'pass' : assigned || optimal ? 'fail' : 'unknown')}`}
      >
        {feasible ? '✓ fits' : refused}
      </TableCell>
      {feasible ? (
        <>
          <TableCell component="td">
            <Bar
              value={margin}
              of={1}
              label={`smallest margin: ${printPercent(margin, 3)} of an ample one`}
            />
          </TableCell>
          <TableCell component="td">
            <Bar
              value={timersLeft}
              of={timersUsed + timersLeft}
              label={`${timersLeft} of ${timersUsed + timersLeft} timers left`}
            />
            <span className="mono"> {printNumber(timersLeft)}</span>
          </TableCell>
          <TableCell component="td" className="mono">
            {printPercent(cpu, 2)}
          </TableCell>
        </>
      ) : (
        <TableCell component="td" colSpan={assigned ? 3 : 4} className={`soft ${styles.why}`}>
          {unbroken(reasonText(reasons))}
        </TableCell>
      )}
      {assigned && (
        <TableCell component="td">
          <Button variant="quiet" onClick={() => take(trial)}>
            {own ? 'use these settings' : 'switch'}
          </Button>
        </TableCell>
      )}
    </TableRow>
  );
}

/** Clock settings that make the plan fit, or that are markedly better than the present one. */
export function Clocks({ found, take }: { found: Clocked[] | undefined; take: (trial: PartTrial) => void }) {
  if (!found) return null;
  if (found.length === 0)
    return <p>No other clock setting that was tried makes the plan fit or is markedly better.</p>;
  return (
    <ul className={styles.clocks}>
      {found.slice(0, 5).map((one) => (
        <li key={one.phrase}>
          <Button variant="quiet" onClick={() => take(one)}>
            <span className="mono">{one.phrase}</span>
          </Button>{' '}
          <span className="soft">
            margin {printPercent(one.margin, 3)} of an ample one, {printPercent(one.cpu, 2)} of the CPU
          </span>
        </li>
      ))}
    </ul>
  );
}
