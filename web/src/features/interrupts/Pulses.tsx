'use client';

import { laneColour } from '../../theme/colour.ts';
import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import { type InterruptReport, type Plan, printSeconds, type EdgeSpread } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { DutyCurve } from './DutyCurve.tsx';
import styles from './interrupts.module.css';

function spreadText(spread: EdgeSpread | undefined): string {
  if (!spread) return '';
  const [min, max] = [printSeconds(spread.min, 5), printSeconds(spread.max, 5)];
  return min === max ? min : `${min} … ${max}`;
}

/** What the interrupts make of the pins they move: pulses, periods, jitter. */
export function Pulses({
  report: { edges },
  plan,
  selected,
}: {
  report: InterruptReport;
  plan: Plan;
  /** The signals of the selected interrupt: the first whose pin it moves is drawn. */
  selected: readonly string[];
}) {
  const made = plan.signals.flatMap(({ id, name }, at) => {
    const own = edges.get(id);
    return own ? [{ id, name, at, own }] : [];
  });
  const { evaluation } = usePlanContext();
  const settable = made.filter(({ id }) => {
    const duty = evaluation.signals.find(({ signal }) => signal.id === id)?.outcome?.place.duty;
    return duty === 'match' || duty === 'counted';
  });
  const drawn = settable.find(({ id }) => selected.includes(id)) ?? settable[0];
  return (
    <section className={styles.pulses} aria-label="Pulses made by interrupts">
      <p className="label">Pulses made by interrupts</p>
      {made.length === 0 ? (
        <p className="soft">
          None: timers make the edges of every signal on a pin, so that waiting interrupts do not move them.
        </p>
      ) : (
        <Table className={styles.table}>
          <TableHead>
            <TableRow className="soft">
              <TableCell component="th">Signal</TableCell>
              <TableCell component="th" className={styles.right}>
                High for
              </TableCell>
              <TableCell component="th" className={styles.right}>
                Period
              </TableCell>
              <TableCell component="th" className={styles.right}>
                Jitter
              </TableCell>
            </TableRow>
          </TableHead>
          <TableBody>
            {made.map(({ id, name, at, own }) => (
              <TableRow key={id} data-pulses={id}>
                <TableCell component="th" scope="row" className={styles.who}>
                  <i className={styles.mark} style={{ background: laneColour(at) }} />
                  <span>{name}</span>
                </TableCell>
                <TableCell className={styles.right}>{spreadText(own.widthS)}</TableCell>
                <TableCell className={styles.right}>{spreadText(own.periodS)}</TableCell>
                <TableCell className={styles.right}>{printSeconds(own.jitterS, 4)}</TableCell>
              </TableRow>
            ))}
          </TableBody>
        </Table>
      )}
      {drawn && <DutyCurve plan={plan} id={drawn.id} colour={laneColour(drawn.at)} />}
    </section>
  );
}
