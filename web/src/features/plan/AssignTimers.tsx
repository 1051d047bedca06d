'use client';

import Button from '@mui/material/Button';
import { proxy } from 'comlink';
import { useRef, useState } from 'react';
import { type Plan, type PlanAssignment, type Setting, type TriedFix, meansOf, numbersText, printNumber, printPercent, sameSetting, timerIdOf, withSettings } from '@herzschlag/core';
import { Panel } from '../../components/frame/Panel.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { searchApart, type Search } from '../../worker/core.ts';
import { CodeChange, useChange } from './CodeChange.tsx';
import { Fixes } from './Fixes.tsx';
import layout from './change.module.css';
import styles from './plan.module.css';

/** The search may take so long, in s; it says when that was not enough for a proof. */
const SECONDS = 6;

/** So long, in s, where that was not enough. */
const LONGER = 60;

type Found = { plan: Plan; assignment: PlanAssignment; next: Plan };

function Change({ name, before, after }: { name: string; before: Setting | undefined; after: Setting }) {
  const { part } = usePlanContext();
  const place = (setting: Setting): string => {
    const timer = part.timers.find((one) => one.id === timerIdOf(setting))?.name ?? '';
    return `${timer} ${meansOf(setting)}${setting.pin === undefined ? '' : ` on ${setting.pin}`}`;
  };
  const moved = before && place(before) !== place(after);
  const same = before && sameSetting(before, after);
  return (
    <tr data-changes={!same}>
      <th scope="row">{name}</th>
      <td>{before ? (moved ? place(before) : '') : 'new'}</td>
      <td>
        <b>{same ? <span className="soft">{place(after)}, as it is</span> : place(after)}</b>
      </td>
      <td className="mono soft">{same ? '' : numbersText(after)}</td>
    </tr>
  );
}

/** Why a plan does not go, with ways out of each conflict. */
function Stuck({ found, take, longer }: { found: Found; take: (fix: TriedFix) => void; longer: () => void }) {
  const { optimal, conflicts } = found.assignment;
  return (
    <>
      <p className="serif" data-testid="stuck">
        {optimal ? 'Not all of them go on this part.' : 'No way was found in the time.'}
      </p>
      {conflicts.map((conflict) => (
        <Fixes key={conflict.signals.join()} plan={found.plan} conflict={conflict} take={take} />
      ))}
      {optimal ? (
        <p className="soft">“Which part?” tries the same plan on all parts.</p>
      ) : (
        <p>
          <button type="button" className={styles.route} onClick={longer}>
            search for {printNumber(LONGER)} s
          </button>
        </p>
      )}
    </>
  );
}

function Proposal({ found, take }: { found: Found; take: () => void }) {
  const { plan, assignment, next } = found;
  const { optimal, settings, objective } = assignment;
  const [open, setOpen] = useState(false);
  const change = useChange(plan, open ? next : undefined);
  const nameOf = (id: string): string => plan.signals.find((one) => one.id === id)?.name ?? id;
  const settled = settings.every(({ signal, setting }) => {
    const before = plan.signals.find((one) => one.id === signal)?.setting;
    return before && sameSetting(before, setting);
  });
  return (
    <>
      <p data-testid="allotment">
        <b className="serif">All {printNumber(settings.length)} signals go</b> on{' '}
        {printNumber(objective?.timers ?? 0)} timers with {printPercent(objective?.cpu ?? 0, 3)} of the CPU.{' '}
        {optimal ? 'Nothing better exists.' : 'There is no proof that nothing better exists.'}
      </p>
      <div className={change ? layout.places : layout.all}>
        <table className={`${styles.uses} ${styles.moves}`}>
          <tbody>
            {settings.map(({ signal, setting }) => (
              <Change
                key={signal}
                name={nameOf(signal)}
                before={plan.signals.find((one) => one.id === signal)?.setting}
                after={setting}
              />
            ))}
          </tbody>
        </table>
      </div>
      {change && <CodeChange change={change} />}
      <div className={layout.foot}>
        {settled ? (
          <span>The plan is like this already; nothing changes.</span>
        ) : (
          <>
            <Button variant="contained" onClick={take}>
              Take it
            </Button>
            <button
              type="button"
              className={styles.route}
              aria-expanded={open}
              onClick={() => setOpen(!open)}
            >
              {open ? 'hide the code' : 'what changes in the code'}
            </button>
          </>
        )}
      </div>
    </>
  );
}

/** Finds the best assignment for all signals together and shows what would change before anything does. */
export function AssignTimers() {
  const { plan, change, report } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [found, setFound] = useState<Found>();
  const [share, setShare] = useState(0);
  const search = useRef<Search<PlanAssignment>>(undefined);

  const start = (on: Plan, seconds = SECONDS) => {
    setFound(undefined);
    setShare(0);
    const own = searchApart<PlanAssignment>((remote) => remote.assign(on, seconds, proxy(setShare)));
    search.current = own;
    own.result
      .then((assignment) => {
        if (search.current !== own) return;
        setFound({ plan: on, assignment, next: withSettings(on, assignment.settings) });
      })
      .catch((error: unknown) => report(String(error)));
  };
  const close = () => {
    search.current?.stop();
    search.current = undefined;
    setAnchor(undefined);
  };
  const take = () => {
    if (found) change((now) => withSettings(now, found.assignment.settings));
    close();
  };
  /** Takes a way out; where another conflict is left, it looks at what then is. */
  const takeFix = ({ plan: next, goes }: TriedFix) => {
    change(() => next);
    if (goes) close();
    else start(next);
  };
  return (
    <>
      <Button
        variant="contained"
        size="small"
        aria-haspopup="dialog"
        onClick={(event) => {
          setAnchor(event.currentTarget);
          start(plan);
        }}
      >
        Allot all
      </Button>
      <Panel button={anchor} close={close}>
        <div className={styles.share} style={{ width: 800 }}>
          <p className="label">All signals on this part</p>
          {found ? (
            found.assignment.feasible ? (
              <Proposal found={found} take={take} />
            ) : (
              <Stuck found={found} take={takeFix} longer={() => start(found.plan, LONGER)} />
            )
          ) : (
            <div className={styles.row}>
              <progress value={share} max={1} aria-label="Time used" />
              <button type="button" className={styles.route} onClick={close}>
                stop
              </button>
            </div>
          )}
        </div>
      </Panel>
    </>
  );
}
