'use client';

import Button from '@mui/material/Button';
import { useEffect, useState } from 'react';
import { type TickProposal, numbersText, pinName, printHz, printNumber, printPercent, printPpm } from '@herzschlag/core';
import { Panel } from '../../components/frame/Panel.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { core } from '../../worker/core.ts';
import styles from './plan.module.css';

type Found = { able: string[]; chosen: string[]; proposal?: TickProposal };

const NOBODY: readonly string[] = [];

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
      <table className={styles.uses}>
        <tbody>
          {proposal.uses.map((use) => {
            const signal = plan.signals.find((one) => one.id === use.signal);
            const what = use.setting.pin === undefined ? 'a tick' : 'a toggle';
            return (
              <tr key={use.signal}>
                <th scope="row">{signal?.name}</th>
                <td>{use.setting.pin === undefined ? '' : pinName(plan, use.setting.pin)}</td>
                <td>
                  {what} every {printNumber(use.divider)}
                </td>
                <td>{printHz(use.frequencyHz)}</td>
                <td>{printPpm(use.errorPpm)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}

/** Several slow signals counted from one timer's interrupt: which of them, by what tick, and taking it. */
export function ShareTick() {
  const { plan, change, report } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [wanted, setWanted] = useState<readonly string[]>();
  const [found, setFound] = useState<Found>();
  const open = anchor !== undefined;

  useEffect(() => {
    if (!open) return undefined;
    let stale = false;
    core()
      .shareTick(plan, wanted)
      .then((next) => {
        if (!stale) setFound(next);
      })
      .catch((error: unknown) => report(String(error)));
    return () => {
      stale = true;
    };
  }, [open, plan, wanted, report]);

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
  const able = found?.able ?? NOBODY;
  const chosen = wanted ?? found?.chosen ?? NOBODY;

  return (
    <>
      <button
        type="button"
        className={`plain ${styles.tool}`}
        aria-haspopup="dialog"
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        one tick for several
      </button>
      <Panel button={anchor} close={() => setAnchor(undefined)}>
        <div className={styles.share}>
          <p className="label">One tick for several signals</p>
          <p className="soft">
            The slowest interrupt of a free timer from which all of them can be counted. It takes ticks, and
            pins that are high for half of the time.
          </p>
          {found && able.length < 2 && <p>No two signals of this plan can be made by counting ticks.</p>}
          {able.length >= 2 &&
            plan.signals
              .filter((signal) => able.includes(signal.id))
              .map((signal) => (
                <label key={signal.id} className={styles.choice}>
                  <input
                    type="checkbox"
                    checked={chosen.includes(signal.id)}
                    onChange={() =>
                      setWanted(
                        chosen.includes(signal.id)
                          ? chosen.filter((id) => id !== signal.id)
                          : [...chosen, signal.id],
                      )
                    }
                  />
                  {signal.name}
                </label>
              ))}
          {found?.proposal && <Proposal proposal={found.proposal} />}
          {found && able.length >= 2 && !found.proposal && (
            <p className={styles.fault} role="alert">
              {chosen.length < 2
                ? 'Choose two or more.'
                : 'No free timer makes a tick that serves them all within their tolerances.'}
            </p>
          )}
          {found?.proposal && (
            <Button variant="contained" onClick={() => found.proposal && take(found.proposal)}>
              Take this tick
            </Button>
          )}
        </div>
      </Panel>
    </>
  );
}
