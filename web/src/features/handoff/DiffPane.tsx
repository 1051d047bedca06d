'use client';

import Button from '@mui/material/Button';
import type { PlanDiff } from '@herzschlag/core';
import { ChangedFile } from '../../components/change/ChangedFile.tsx';
import change from '../../components/change/change.module.css';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { verdictClass } from '../../components/verdict/VerdictSign.tsx';
import { useEngine } from '../../worker/useEngine.ts';
import type { Compared } from './Versions.tsx';
import styles from './versions.module.css';

/** A text before and after, where either may be missing. */
function Was({ before, after }: { before?: string; after?: string }) {
  return (
    <p className={styles.was}>
      {before !== undefined && (
        <span className={styles.before}>
          <b aria-label="before">−</b> {before}
        </span>
      )}
      {after !== undefined && (
        <span className={styles.after}>
          <b aria-label="now">+</b> {after}
        </span>
      )}
    </p>
  );
}

function Differences({ diff }: { diff: PlanDiff }) {
  const { plan, signals, registers, code, noCode, checks, passing } = diff;
  const same = [plan, signals, registers, code, checks].every((list) => list.length === 0);
  if (same) return <p>Nothing is different.</p>;
  return (
    <>
      <p>
        Checks that pass: <b>{passing.before}</b> before, <b>{passing.after}</b> now
        {diff.worse && <b className={verdictClass('fail')}> · something got worse</b>}
      </p>
      {plan.map(({ what, before, after }) => (
        <section key={what} aria-label={what}>
          <h3 className="label">{what}</h3>
          <Was before={before} after={after} />
        </section>
      ))}
      {signals.map(({ signal, name, target, setting }) => (
        <section key={signal} aria-label={name}>
          <h3 className="serif">{name}</h3>
          {target && <Was {...target} />}
          {setting && <Was {...setting} />}
        </section>
      ))}
      {checks.length > 0 && (
        <section aria-label="Checks">
          <h3 className="label">Checks</h3>
          <ul className={styles.checks}>
            {checks.map(({ signal, check, before = 'none', after = 'none', worse }) => (
              <li key={`${signal} ${check}`} className={worse ? verdictClass('fail') : undefined}>
                {signal} {check}: {before} → {after}
              </li>
            ))}
          </ul>
        </section>
      )}
      {registers.length > 0 && (
        <section aria-label="Registers that differ">
          <h3 className="label">Registers</h3>
          <table className={`mono ${styles.registers}`}>
            <tbody>
              {registers.map(({ register, before = 'not written', after = 'not written' }) => (
                <tr key={register}>
                  <th scope="row">{register}</th>
                  <td className={styles.before}>{before}</td>
                  <td className={styles.after}>{after}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      {noCode && (
        <section aria-label="No code">
          <h3 className="label">No code</h3>
          <Was {...noCode} />
        </section>
      )}
      {code.length > 0 && (
        <section aria-label="Code that differs" className={`${change.code} ${styles.code}`}>
          {code.map((file) => (
            <ChangedFile key={file.name} file={file} />
          ))}
        </section>
      )}
    </>
  );
}

/** What is different between another plan and this one as it is now: signals, settings, checks, registers, code. */
export function DiffPane({ compared, close }: { compared: Compared; close: () => void }) {
  const { plan, report } = usePlanContext();
  const { value: diff } = useEngine(
    ['diff', compared.plan, plan],
    (engine, key) => engine.diff(key(compared.plan), key(plan)),
    { keep: true, report },
  );
  return (
    <div className={styles.diff} data-testid="diff" role="region" aria-label="Differences" tabIndex={0}>
      <div className={styles.title}>
        <h2 className="serif">
          {compared.name} <span className="soft">and the plan as it is now</span>
        </h2>
        <Button color="inherit" onClick={close}>
          Back to the code
        </Button>
      </div>
      {diff ? <Differences diff={diff} /> : <p className="soft">comparing …</p>}
    </div>
  );
}
