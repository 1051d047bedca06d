'use client';

import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import { useState } from 'react';
import {
  type Plan,
  printHz,
  printNumber,
  printPercent,
  printSeconds,
  type StringWay,
} from '@herzschlag/core';
import { ChoiceBox } from '../../components/fields/ChoiceBox.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { useEngine } from '../../worker/useEngine.ts';
import styles from './interrupts.module.css';

/** Other processor clocks to compare with, as multiples of the plan's. */
const CLOCKS = [0.5, 1, 2];

function lostText({ others }: StringWay): string {
  const lost = others.filter((one) => one.lost > 0);
  if (lost.length === 0) return 'nothing lost';
  return lost
    .map(({ name, lost: count, events }) => `${name}: ${count} of ${printNumber(events)} lost`)
    .join(', ');
}

function worstText({ others }: StringWay): string {
  const worst = others.reduce((most, one) => (one.worstWaitS > most.worstWaitS ? one : most), {
    name: '',
    worstWaitS: 0,
  });
  return worst.worstWaitS === 0 ? '' : `${worst.name} ${printSeconds(worst.worstWaitS, 3)}`;
}

function Way({ way }: { way: StringWay }) {
  if (way.reason !== undefined) {
    return (
      <TableRow data-way={way.id}>
        <TableCell component="th" scope="row" className={styles.who}>
          {way.name}
        </TableCell>
        <TableCell colSpan={4} className={styles.why}>
          {way.reason}
        </TableCell>
      </TableRow>
    );
  }
  return (
    <TableRow data-way={way.id}>
      <TableCell component="th" scope="row" className={styles.who}>
        {way.name}
      </TableCell>
      <TableCell className={styles.right}>{printPercent(way.share, 3)}</TableCell>
      <TableCell className={styles.right} data-fails={way.broken > 0}>
        {way.broken} of {way.frames}
      </TableCell>
      <TableCell className={styles.why} data-fails={way.others.some(({ lost }) => lost > 0)}>
        {lostText(way)}
      </TableCell>
      <TableCell className={styles.right}>{worstText(way)}</TableCell>
    </TableRow>
  );
}

/** The ways to send the bits of one string of LEDs, side by side, with what each does to the other interrupts. */
export function StringWays({ signal, plan }: { signal: Plan['signals'][number]; plan: Plan }) {
  const { report } = usePlanContext();
  const [by, setBy] = useState(1);
  const { value } = useEngine(
    ['strings', plan, signal.id, by],
    (engine, key) => engine.stringWays(key(plan), signal.id, by),
    { keep: true, report },
  );
  if (!value) return null;
  const { ways, string, cpuHz } = value;
  const [first] = ways;
  return (
    <section className={styles.string} aria-label={`Ways to send ${signal.name}`}>
      <p className={styles.under}>
        <span className="label">Sending {signal.name}</span>
        <span>
          {printNumber(string.leds)} LEDs: {printSeconds(first?.frameS ?? 0, 4)} a frame, at most{' '}
          {printHz(first?.mostHz ?? 0, 4)}; simulated at {printHz(string.frameHz, 4)}, processor at
        </span>
        <ChoiceBox label="Clock of the processor" value={by} take={(next) => setBy(Number(next))}>
          {CLOCKS.map((one) => (
            <option key={one} value={one}>
              {printHz((cpuHz / by) * one, 4)}
            </option>
          ))}
        </ChoiceBox>
      </p>
      <Table className={styles.table}>
        <TableHead>
          <TableRow className="soft">
            <TableCell component="th">Sent by</TableCell>
            <TableCell component="th" className={styles.right}>
              CPU
            </TableCell>
            <TableCell component="th" className={styles.right}>
              Frames cut short
            </TableCell>
            <TableCell component="th" className={styles.why}>
              Other interrupts
            </TableCell>
            <TableCell component="th" className={styles.right}>
              Worst wait
            </TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {ways.map((way) => (
            <Way key={way.id} way={way} />
          ))}
        </TableBody>
      </Table>
    </section>
  );
}
