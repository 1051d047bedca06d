'use client';

import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableRow from '@mui/material/TableRow';
import TableCell from '@mui/material/TableCell';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import { proxy } from 'comlink';
import { useRef, useState } from 'react';
import {
  type Plan,
  type PlanAssignment,
  type Setting,
  type TriedFix,
  meansOf,
  numbersText,
  printNumber,
  printPercent,
  sameSetting,
  timerIdOf,
  withSettings,
} from '@herzschlag/core';
import { Panel } from '../../components/frame/Panel.tsx';
import { verdictClass } from '../../components/verdict/VerdictSign.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { search as startSearch, type Search } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import { CodeChange, useChange } from './CodeChange.tsx';
import { Fixes } from './Fixes.tsx';
import layout from '../../components/change/change.module.css';
import styles from './plan.module.css';

/** Steps that the search may take; it says when they were not enough for a proof. */
const STEPS = 400;

/** Ten times as many where those were not enough. */
const MORE_STEPS = 10 * STEPS;

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
    <TableRow data-changes={!same}>
      <TableCell component="th" scope="row">
        {name}
      </TableCell>
      <TableCell component="td">{before ? (moved ? place(before) : '') : 'new'}</TableCell>
      <TableCell component="td">
        <b>{same ? <span className="soft">{place(after)}, unchanged</span> : place(after)}</b>
      </TableCell>
      <TableCell component="td" className="mono soft">
        {same ? '' : numbersText(after)}
      </TableCell>
    </TableRow>
  );
}

/** Why a plan does not fit, with fixes for each conflict. */
function Infeasible({
  found,
  take,
  longer,
}: {
  found: Found;
  take: (fix: TriedFix) => void;
  longer: () => void;
}) {
  const { optimal, conflicts, ended } = found.assignment;
  return (
    <>
      <p className="serif" data-testid="infeasible">
        {optimal
          ? 'The signals do not all fit on this part.'
          : 'No assignment was found within the search limit.'}
      </p>
      {ended !== undefined && <p>{ended}</p>}
      {conflicts.map((conflict) => (
        <Fixes key={conflict.signals.join()} plan={found.plan} conflict={conflict} take={take} />
      ))}
      {optimal ? (
        <p className="soft">“Which part?” tries the same plan on every part.</p>
      ) : (
        <p>
          <Button variant="quiet" onClick={longer}>
            search ten times as long
          </Button>
        </p>
      )}
    </>
  );
}

/** Failing checks that are listed. */
const MOST_FAILING = 4;

function Proposal({ found, take }: { found: Found; take: () => void }) {
  const { plan, assignment, next } = found;
  const { optimal, settings, objective, failing } = assignment;
  const [open, setOpen] = useState(false);
  const change = useChange(plan, open ? next : undefined);
  const nameOf = (id: string): string => plan.signals.find((one) => one.id === id)?.name ?? id;
  const unchanged = settings.every(({ signal, setting }) => {
    const before = plan.signals.find((one) => one.id === signal)?.setting;
    return before && sameSetting(before, setting);
  });
  return (
    <>
      <p data-testid="assignment">
        <b className="serif">All {printNumber(settings.length)} signals fit</b> on{' '}
        {printNumber(objective?.timers ?? 0)} timers with {printPercent(objective?.cpu ?? 0, 3)} of the CPU.{' '}
        {optimal
          ? 'This is the best assignment.'
          : 'A better assignment may exist; the search limit was reached.'}
      </p>
      {failing.length > 0 && (
        <ul className={layout.failing} data-testid="assignment-fails">
          {failing.slice(0, MOST_FAILING).map(({ signal, name, text }) => (
            <li key={`${signal} ${text}`} className={verdictClass('fail')}>
              ✗ {name}: {text}
            </li>
          ))}
          {failing.length > MOST_FAILING && <li>and {printNumber(failing.length - MOST_FAILING)} more</li>}
        </ul>
      )}
      <div className={change ? layout.places : layout.all}>
        <Table className={`${styles.uses} ${styles.moves}`}>
          <TableBody>
            {settings.map(({ signal, setting }) => (
              <Change
                key={signal}
                name={nameOf(signal)}
                before={plan.signals.find((one) => one.id === signal)?.setting}
                after={setting}
              />
            ))}
          </TableBody>
        </Table>
      </div>
      {change && <CodeChange change={change} />}
      <div className={layout.foot}>
        {unchanged ? (
          <span>The plan is already assigned like this; nothing changes.</span>
        ) : (
          <>
            <Button variant="contained" onClick={take}>
              Apply
            </Button>
            <Button variant="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
              {open ? 'hide the code' : 'show code changes'}
            </Button>
          </>
        )}
      </div>
    </>
  );
}

/** Finds the best assignment for all signals together and shows what would change before anything does. */
export function AssignTimers() {
  const { plan, change } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [found, setFound] = useState<Found>();
  const [share, setShare] = useState(0);
  const [fault, setFault] = useState<string>();
  const search = useRef<Search<PlanAssignment>>(undefined);

  const start = (on: Plan, steps = STEPS) => {
    setFound(undefined);
    setFault(undefined);
    setShare(0);
    const own = startSearch<PlanAssignment>((engine, key) => engine.assign(key(on), steps, proxy(setShare)));
    search.current = own;
    own.result
      .then((assignment) => {
        if (search.current !== own) return;
        setFound({ plan: on, assignment, next: withSettings(on, assignment.settings) });
      })
      .catch((error: unknown) => {
        if (search.current === own) setFault(sentenceOfError(error));
      });
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
  /** Applies a fix; where another conflict is left, the search goes on with that. */
  const takeFix = ({ plan: next, goes }: TriedFix) => {
    change({ from: found?.plan ?? plan, to: next });
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
        Assign timers
      </Button>
      <Panel button={anchor} name="Assign timers" close={close}>
        <div className={styles.share} style={{ width: 800 }}>
          <p className="label">All signals on this part</p>
          {fault !== undefined ? (
            <>
              <p className={styles.fault} role="alert">
                {fault}
              </p>
              <Button variant="quiet" onClick={() => start(plan)}>
                search again
              </Button>
            </>
          ) : found ? (
            found.assignment.feasible ? (
              <Proposal found={found} take={take} />
            ) : (
              <Infeasible found={found} take={takeFix} longer={() => start(found.plan, MORE_STEPS)} />
            )
          ) : (
            <div className={styles.row}>
              <LinearProgress
                variant="determinate"
                value={share * 100}
                aria-label="Share of the search limit"
                className={styles.progress ?? ''}
              />
              <Button variant="quiet" onClick={close}>
                stop
              </Button>
            </div>
          )}
        </div>
      </Panel>
    </>
  );
}
