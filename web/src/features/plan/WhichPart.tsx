'use client';

import Button from '@mui/material/Button';
import Table from '@mui/material/Table';
import TableHead from '@mui/material/TableHead';
import TableBody from '@mui/material/TableBody';
import TableRow from '@mui/material/TableRow';
import TableCell from '@mui/material/TableCell';
import { useRef, useState } from 'react';
import { type PartTrial, type Plan, printNumber } from '@herzschlag/core';
import { Panel } from '../../components/frame/Panel.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { ask, search, type Search } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import type { PartFacts } from '../../worker/facts.ts';
import { Clocks, Row, type Clocked } from './PartTrials.tsx';
import styles from './plan.module.css';
import { SwitchPart } from './SwitchPart.tsx';

/** Steps that the search on each part may take. */
const STEPS = 100;

/** This plan on every part, and under other clock settings of its own: what fits, what is left, switching to it. */
export function WhichPart() {
  const { plan, part, change, report } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [parts, setParts] = useState<PartFacts[]>([]);
  const [trials, setTrials] = useState<Record<string, PartTrial | undefined>>({});
  const [clocks, setClocks] = useState<Clocked[]>();
  const [busy, setBusy] = useState(false);
  const [chosen, setChosen] = useState<{ trial: PartTrial; next: Plan }>();
  const running = useRef<Search<void>>(undefined);

  const start = (button: HTMLElement) => {
    setAnchor(button);
    setTrials({});
    setClocks(undefined);
    setBusy(true);
    const own = search<void>(async (engine, key) => {
      const all = await engine.parts();
      const known = all.some(({ id }) => id === plan.part) ? all : [part, ...all];
      setParts([
        ...known.filter(({ id }) => id === plan.part),
        ...known.filter(({ id }) => id !== plan.part),
      ]);
      for (const { id } of known) {
        const trial = await engine.tryPart(key(plan), id, STEPS);
        setTrials((before) => ({ ...before, [id]: trial }));
      }
      setClocks(await engine.tryClocks(key(plan), STEPS));
    });
    running.current = own;
    own.result.catch((error: unknown) => report(sentenceOfError(error))).finally(() => setBusy(false));
  };
  const close = () => {
    running.current?.stop();
    setAnchor(undefined);
    setChosen(undefined);
  };
  const choose = (trial: PartTrial) => {
    ask((engine, key) => engine.planOn(key(plan), trial))
      .then((next) => setChosen({ trial, next }))
      .catch((error: unknown) => report(sentenceOfError(error)));
  };
  const fitting = Object.values(trials).filter((trial) => trial?.feasible).length;
  return (
    <>
      <Button variant="quiet" aria-haspopup="dialog" onClick={(event) => start(event.currentTarget)}>
        Which part?
      </Button>
      <Panel button={anchor} name="Which part?" close={close}>
        {chosen && (
          <SwitchPart
            next={chosen.next}
            name={parts.find(({ id }) => id === chosen.trial.part)?.name ?? chosen.trial.part}
            cpuHz={chosen.trial.cpuHz}
            take={() => {
              change({ from: plan, to: chosen.next });
              close();
            }}
            back={() => setChosen(undefined)}
          />
        )}
        <div
          className={styles.share}
          style={{ width: 760 }}
          data-testid="which-part"
          hidden={chosen !== undefined}
        >
          <p className="label">This plan on every part</p>
          <p aria-live="polite">
            <b className="serif">
              {printNumber(fitting)} of {printNumber(parts.length)} parts can make it
            </b>
            {busy ? ' so far …' : '.'} A pin that a part does not have is left free there.
          </p>
          <Table className={`${styles.uses} ${styles.parts}`}>
            <TableHead>
              <TableRow className="label">
                <TableCell component="th">Part</TableCell>
                <TableCell component="td">Verdict</TableCell>
                <TableCell component="td">Margin</TableCell>
                <TableCell component="td">Timers left</TableCell>
                <TableCell component="td">CPU</TableCell>
                <TableCell component="td" />
              </TableRow>
            </TableHead>
            <TableBody>
              {parts.map(({ id, name }) => (
                <Row
                  key={id}
                  name={name}
                  trial={trials[id]}
                  waiting={!(id in trials)}
                  take={choose}
                  own={id === plan.part}
                />
              ))}
            </TableBody>
          </Table>
          <p className="label">{part.name} under other clock settings</p>
          {busy && !clocks ? (
            <p className="soft">after the parts …</p>
          ) : (
            <Clocks found={clocks} take={choose} />
          )}
        </div>
      </Panel>
    </>
  );
}
