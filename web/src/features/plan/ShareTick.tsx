'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableRow from '@mui/material/TableRow';
import TableCell from '@mui/material/TableCell';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import { useState } from 'react';
import {
  type TickProposal,
  numbersText,
  pinName,
  printHz,
  printNumber,
  printPercent,
  printPpm,
} from '@herzschlag/core';
import { Panel } from '../../components/frame/Panel.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { useEngine } from '../../worker/useEngine.ts';
import styles from './plan.module.css';

const NONE: readonly string[] = [];

function Proposal({ proposal }: { proposal: TickProposal }) {
  const { plan, part } = usePlanContext();
  const timer = part.timers.find((one) => one.id === proposal.counter.timer)?.name;
  const [first] = proposal.uses;
  return (
    <>
      <p data-testid="shared-tick">
        <b className="serif">
          {printHz(proposal.tickHz)} on {timer}
        </b>
        , {first && numbersText({ ...first.setting, divider: 1 } as typeof first.setting).split(', ÷')[0]}:{' '}
        {printPercent(proposal.cpu, 3)} of the CPU.
      </p>
      <Table className={styles.uses}>
        <TableBody>
          {proposal.uses.map((use) => {
            const signal = plan.signals.find((one) => one.id === use.signal);
            const what = use.setting.pin === undefined ? 'a tick' : 'a toggle';
            return (
              <TableRow key={use.signal}>
                <TableCell component="th" scope="row">
                  {signal?.name}
                </TableCell>
                <TableCell component="td">
                  {use.setting.pin === undefined ? '' : pinName(plan, use.setting.pin)}
                </TableCell>
                <TableCell component="td">
                  {what} every {printNumber(use.divider)}
                </TableCell>
                <TableCell component="td">{printHz(use.frequencyHz)}</TableCell>
                <TableCell component="td">{printPpm(use.errorPpm)}</TableCell>
              </TableRow>
            );
          })}
        </TableBody>
      </Table>
    </>
  );
}

/** Several slow signals counted from one timer's interrupt: which of them, at what rate, and applying it. */
export function ShareTick() {
  const { plan, change, report } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [wanted, setWanted] = useState<readonly string[]>();
  const open = anchor !== undefined;
  const { value: found } = useEngine(
    ['share tick', plan, wanted],
    (engine, key) => engine.shareTick(key(plan), wanted),
    { enabled: open, keep: true, report },
  );

  const take = (proposal: TickProposal) => {
    change((now) => ({
      ...now,
      signals: now.signals.map((signal) => {
        const use = proposal.uses.find((one) => one.signal === signal.id);
        return use ? { ...signal, setting: use.setting } : signal;
      }),
    }));
    setAnchor(undefined);
  };
  const able = found?.able ?? NONE;
  const chosen = wanted ?? found?.chosen ?? NONE;

  return (
    <>
      <ButtonBase
        className={styles.tool}
        aria-haspopup="dialog"
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        share one tick …
      </ButtonBase>
      <Panel button={anchor} name="Share one tick" close={() => setAnchor(undefined)}>
        <div className={styles.share}>
          <p className="label">One interrupt for several signals</p>
          <p className="soft">
            The slowest interrupt of a free timer from which all of them can be counted. Works for ticks and
            for pins that are high for half of each period.
          </p>
          {found && able.length < 2 && <p>No two signals of this plan can be made by counting interrupts.</p>}
          {able.length >= 2 &&
            plan.signals
              .filter((signal) => able.includes(signal.id))
              .map((signal) => (
                <FormControlLabel
                  key={signal.id}
                  label={signal.name}
                  control={
                    <Checkbox
                      checked={chosen.includes(signal.id)}
                      onChange={() =>
                        setWanted(
                          chosen.includes(signal.id)
                            ? chosen.filter((id) => id !== signal.id)
                            : [...chosen, signal.id],
                        )
                      }
                    />
                  }
                />
              ))}
          {found?.proposal && <Proposal proposal={found.proposal} />}
          {found && able.length >= 2 && !found.proposal && (
            <p className={styles.fault} role="alert">
              {chosen.length < 2
                ? 'Choose two or more.'
                : 'No free timer has an interrupt rate that keeps all of them within their tolerances.'}
            </p>
          )}
          {found?.proposal && (
            <Button variant="contained" onClick={() => found.proposal && take(found.proposal)}>
              Use this interrupt
            </Button>
          )}
        </div>
      </Panel>
    </>
  );
}
