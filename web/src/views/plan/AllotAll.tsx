'use client';

import Button from '@mui/material/Button';
import { proxy } from 'comlink';
import { useRef, useState } from 'react';
import type { Plan } from '@herzschlag/core/format/plan.ts';
import type { PlanAllotment } from '@herzschlag/core/outcome/allotment.ts';
import { printNumber, printPercent } from '@herzschlag/core/quantity/print.ts';
import type { Setting } from '@herzschlag/core/timer/setting.ts';
import { meansOf, numbersText, timerIdOf } from '@herzschlag/core/timer/words.ts';
import { Panel } from '../../frame/Panel.tsx';
import { useBench } from '../../frame/PlanContext.ts';
import { searchApart, type Search } from '../../worker/core.ts';
import styles from './plan.module.css';

/** The search may take so long, in s; it says when that was not enough for a proof. */
const SECONDS = 6;

type Found = { plan: Plan; allotment: PlanAllotment };

function Change({ name, before, after }: { name: string; before: Setting | undefined; after: Setting }) {
  const { part } = useBench();
  const place = (setting: Setting): string => {
    const timer = part.timers.find((one) => one.id === timerIdOf(setting))?.name ?? '';
    return `${timer} ${meansOf(setting)}${setting.pin === undefined ? '' : ` on ${setting.pin}`}`;
  };
  const moved = before && place(before) !== place(after);
  const same = before && JSON.stringify(before) === JSON.stringify(after);
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

function Proposal({ found, take }: { found: Found; take: () => void }) {
  const { plan, allotment } = found;
  const { feasible, optimal, settings, worth, conflicts } = allotment;
  const nameOf = (id: string): string => plan.signals.find((one) => one.id === id)?.name ?? id;
  if (!feasible) {
    return (
      <>
        <p className="serif">
          {optimal ? 'Not all of them go on this part.' : 'No way was found in the time.'}
        </p>
        {conflicts.map(({ reason, signals }) => (
          <p key={signals.join()} className={styles.conflict}>
            {reason}
          </p>
        ))}
        {optimal && (
          <p className="soft">
            A looser tolerance, another pin, a freed timer, another clock or another part may help; “Which
            part?” tries them all.
          </p>
        )}
      </>
    );
  }
  return (
    <>
      <p data-testid="allotment">
        <b className="serif">All {printNumber(settings.length)} signals go</b> on{' '}
        {printNumber(worth?.timers ?? 0)} timers with {printPercent(worth?.cpu ?? 0, 3)} of the CPU.{' '}
        {optimal ? 'Nothing better exists.' : 'The search was stopped by time; something better may exist.'}
      </p>
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
      <Button variant="contained" onClick={take}>
        Take it
      </Button>
    </>
  );
}

/** Finds the best assignment for all signals together and shows what would change before anything does. */
export function AllotAll() {
  const { plan, change, report } = useBench();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [found, setFound] = useState<Found>();
  const [share, setShare] = useState(0);
  const search = useRef<Search<PlanAllotment>>(undefined);

  const start = (button: HTMLElement) => {
    setAnchor(button);
    setFound(undefined);
    setShare(0);
    const own = searchApart<PlanAllotment>((remote) => remote.allot(plan, SECONDS, proxy(setShare)));
    search.current = own;
    own.result
      .then((allotment) => search.current === own && setFound({ plan, allotment }))
      .catch((error: unknown) => report(String(error)));
  };
  const close = () => {
    search.current?.stop();
    search.current = undefined;
    setAnchor(undefined);
  };
  const take = () => {
    const settings = new Map(found?.allotment.settings.map(({ signal, setting }) => [signal, setting]));
    change((now) => ({
      ...now,
      signals: now.signals.map((one) => {
        const setting = settings.get(one.id);
        return setting ? { ...one, setting } : one;
      }),
    }));
    close();
  };
  return (
    <>
      <Button
        variant="contained"
        size="small"
        aria-haspopup="dialog"
        onClick={(event) => start(event.currentTarget)}
      >
        Allot all
      </Button>
      <Panel button={anchor} close={close}>
        <div className={styles.share} style={{ width: 720 }}>
          <p className="label">All signals on this part</p>
          {found ? (
            <Proposal found={found} take={take} />
          ) : (
            <div className={styles.row}>
              <progress value={share} max={1} aria-label="Time used" />
              <button type="button" className={styles.way} onClick={close}>
                stop
              </button>
            </div>
          )}
        </div>
      </Panel>
    </>
  );
}
