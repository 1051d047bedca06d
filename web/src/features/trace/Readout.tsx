'use client';

import Table from '@mui/material/Table';
import TableHead from '@mui/material/TableHead';
import TableBody from '@mui/material/TableBody';
import TableRow from '@mui/material/TableRow';
import TableCell from '@mui/material/TableCell';
import { memo } from 'react';
import {
  measureBetween,
  printHz,
  printNumber,
  printPercent,
  printSeconds,
  printUnit,
} from '@herzschlag/core';
import type { Cursors } from './Lanes.tsx';
import styles from './trace.module.css';
import type { TraceLane } from './useLanes.ts';

const NONE = '–';

function figures(lane: TraceLane | undefined, of: 'computed' | 'captured', { a, b }: Cursors): string[] {
  const source = lane?.[of];
  const seen = source && measureBetween(source, a, b);
  if (!seen) return [NONE, NONE, NONE, NONE, NONE];
  const sampled = of === 'captured' ? lane?.volts?.mean(a, b) : undefined;
  const mean = sampled ?? (lane?.supplyV === undefined ? undefined : seen.duty * lane.supplyV);
  return [
    seen.frequencyHz === undefined ? NONE : printHz(seen.frequencyHz, 7),
    seen.frequencyHz === undefined ? NONE : printSeconds(1 / seen.frequencyHz, 7),
    printPercent(seen.duty, 5),
    mean === undefined ? NONE : printUnit(mean, 'V'),
    `${printNumber(seen.rises)} ↑ ${printNumber(seen.falls)} ↓`,
  ];
}

const LABELS = ['frequency', 'period', 'high', 'mean', 'edges'];

/** What lies between the cursors on the chosen lane, computed and captured side by side, as text for the clipboard too. */
export function measureText(lane: TraceLane | undefined, cursors: Cursors): string {
  const { a, b } = cursors;
  const head = `${lane?.name ?? ''}: A ${printSeconds(a, 9)}, B ${printSeconds(b, 9)}, B - A ${printSeconds(b - a, 9)}`;
  const rows = (['computed', 'captured'] as const).flatMap((of) => {
    if (!lane?.[of]) return [];
    return [
      `${of}: ${figures(lane, of, cursors)
        .map((text, at) => `${LABELS[at]} ${text}`)
        .join(', ')}`,
    ];
  });
  return [head, ...rows].join('\n');
}

/** The cursors and what lies between them on the chosen lane. */
export const Readout = memo(function Readout({
  lane,
  cursors,
}: {
  lane: TraceLane | undefined;
  cursors: Cursors;
}) {
  const { a, b, active } = cursors;
  const computed = figures(lane, 'computed', cursors);
  const captured = figures(lane, 'captured', cursors);
  const between = Math.abs(b - a);
  return (
    <section aria-label="Cursors" className={styles.readout}>
      <p className={styles.times} data-testid="cursors">
        <span data-active={active === 'a'}>
          <b>A</b> {printSeconds(a, 10)}
        </span>
        <span data-active={active === 'b'}>
          <b>B</b> {printSeconds(b, 10)}
        </span>
        <span>
          <b>B − A</b> {printSeconds(b - a, 10)}
          {between > 0 && ` = ${printHz(1 / between, 7)}`}
        </span>
      </p>
      <Table className={styles.measures}>
        <TableHead>
          <TableRow>
            <TableCell component="th" scope="col">
              A to B
            </TableCell>
            {LABELS.map((label) => (
              <TableCell component="th" scope="col" key={label}>
                {label}
              </TableCell>
            ))}
          </TableRow>
        </TableHead>
        <TableBody>
          <TableRow data-testid="measure-computed">
            <TableCell component="th" scope="row">
              computed
            </TableCell>
            {computed.map((text, at) => (
              <TableCell component="td" key={LABELS[at]}>
                {text}
              </TableCell>
            ))}
          </TableRow>
          <TableRow data-testid="measure-captured">
            <TableCell component="th" scope="row">
              captured
            </TableCell>
            {captured.map((text, at) => (
              <TableCell component="td" key={LABELS[at]}>
                {text}
              </TableCell>
            ))}
          </TableRow>
        </TableBody>
      </Table>
    </section>
  );
});
