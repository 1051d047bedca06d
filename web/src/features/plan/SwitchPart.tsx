'use client';

import Button from '@mui/material/Button';
import { type Plan, printHz } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import layout from './change.module.css';
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
            <table className={`${styles.uses} ${styles.moves}`}>
              <tbody>
                {change.places.map(({ signal, name: called, before, after }) => (
                  <tr key={signal}>
                    <th scope="row">{called}</th>
                    <td>{before === after ? '' : (before ?? 'new')}</td>
                    <td>
                      <b>{before === after ? <span className="soft">{after}, as it is</span> : after}</b>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <CodeChange change={change} />
        </>
      ) : (
        <p className="soft">…</p>
      )}
      <div className={layout.foot}>
        <Button variant="contained" onClick={take} autoFocus>
          Switch to it
        </Button>
        <button type="button" className={styles.route} onClick={back}>
          back to the parts
        </button>
      </div>
    </div>
  );
}
