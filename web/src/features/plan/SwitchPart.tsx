'use client';

import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableRow from '@mui/material/TableRow';
import TableCell from '@mui/material/TableCell';
import Button from '@mui/material/Button';
import { type Plan, printHz } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import layout from '../../components/change/change.module.css';
import { CodeChange, useChange } from './CodeChange.tsx';
import styles from './plan.module.css';

/** What moving the plan to another part or clock changes, before it is done. */
export function SwitchPart({
  next,
  name,
  cpuHz,
  take,
  back,
}: {
  next: Plan;
  name: string;
  cpuHz: number;
  take: () => void;
  back: () => void;
}) {
  const { plan } = usePlanContext();
  const change = useChange(plan, next);
  return (
    <div className={styles.share} style={{ width: 820 }} data-testid="switching">
      <p className="label">What changes</p>
      <p className="serif">
        <b>
          {plan.name} on {name}
        </b>{' '}
        at {printHz(cpuHz, 4)}
      </p>
      {change ? (
        <>
          <div className={layout.places}>
            <Table className={`${styles.uses} ${styles.moves}`}>
              <TableBody>
                {change.places.map(({ signal, name: called, before, after }) => (
                  <TableRow key={signal}>
                    <TableCell component="th" scope="row">
                      {called}
                    </TableCell>
                    <TableCell component="td">{before === after ? '' : (before ?? 'new')}</TableCell>
                    <TableCell component="td">
                      <b>{before === after ? <span className="soft">{after}, unchanged</span> : after}</b>
                    </TableCell>
                  </TableRow>
                ))}
              </TableBody>
            </Table>
          </div>
          <CodeChange change={change} />
        </>
      ) : (
        <p className="soft">computing …</p>
      )}
      <div className={layout.foot}>
        <Button variant="contained" onClick={take} autoFocus>
          Switch to this part
        </Button>
        <Button variant="quiet" onClick={back}>
          back to the parts
        </Button>
      </div>
    </div>
  );
}
