'use client';

import Button from '@mui/material/Button';
import { useCallback, useState } from 'react';
import type { Plan } from '@herzschlag/core';
import { ChoiceBox } from '../../components/fields/ChoiceBox.tsx';
import { TextBox } from '../../components/fields/TextBox.tsx';
import { FileButton } from '../../components/frame/FileButton.tsx';
import { Panel } from '../../components/frame/Panel.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import type { VersionRow } from '../../state/db.ts';
import { openPlanFile } from '../../state/file.ts';
import { openable } from '../../state/stored.ts';
import { forgetVersion, keepVersion, usePast } from '../../state/versions.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import styles from './versions.module.css';

/** A plan to compare with, and what it is called. */
export type Compared = { name: string; plan: Plan };

const WHEN = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' });

/** A button for what the plan was before: save points by name, steps of undo and files, to compare with and to go back to. */
export function Versions({ compare }: { compare: (compared: Compared) => void }) {
  const { planId, plan, now, change, report } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [name, setName] = useState('');
  const tell = useCallback((sentence: string) => report(sentence), [report]);
  const { versions, steps } = usePast(planId, anchor !== undefined, tell);
  const attempt = (work: Promise<unknown>) => {
    work.catch((error: unknown) => report(sentenceOfError(error)));
  };
  const show = (what: string, state: unknown) =>
    attempt(
      openable(state).then((found) => {
        setAnchor(undefined);
        compare({ name: what, plan: found });
      }),
    );
  const restore = (version: VersionRow) =>
    attempt(
      openable(version.state).then((found) => {
        setAnchor(undefined);
        change(() => found);
      }),
    );
  return (
    <>
      <Button color="inherit" className={styles.open} onClick={(event) => setAnchor(event.currentTarget)}>
        Versions …
      </Button>
      <Panel button={anchor} name="Versions" side="right" close={() => setAnchor(undefined)}>
        <div className={styles.panel}>
          <form
            className={styles.keep}
            onSubmit={(event) => {
              event.preventDefault();
              if (name.trim() === '') return;
              attempt(keepVersion(planId, name.trim(), now()).then(() => setName('')));
            }}
          >
            <TextBox
              autoFocus
              label="Name of a version"
              placeholder={`a name for ${plan.name} as it is now`}
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
            <Button type="submit" variant="outlined" disabled={name.trim() === ''}>
              Keep
            </Button>
          </form>
          {versions.length === 0 ? (
            <p className="soft">
              No version is kept yet. A kept version can be compared with and gone back to.
            </p>
          ) : (
            <ul className={styles.list}>
              {versions.map((version) => (
                <li key={version.id} data-version={version.name}>
                  <span>
                    <b>{version.name}</b> <span className="soft">{WHEN.format(version.at)}</span>
                  </span>
                  <Button variant="quiet" onClick={() => show(version.name, version.state)}>
                    compare
                  </Button>
                  <Button variant="quiet" onClick={() => restore(version)}>
                    restore
                  </Button>
                  <Button
                    variant="quiet"
                    aria-label={`Forget ${version.name}`}
                    onClick={() => attempt(forgetVersion(version))}
                  >
                    forget
                  </Button>
                </li>
              ))}
            </ul>
          )}
          <div className={styles.others}>
            {steps.length > 0 && (
              <span>
                <span className="soft">or compare with </span>
                <ChoiceBox
                  label="Steps of undo"
                  value=""
                  take={(at) => {
                    const step = steps.find((one) => String(one.at) === at);
                    const back = steps.findIndex((one) => String(one.at) === at) + 1;
                    if (step) show(back === 1 ? 'one step back' : `${back} steps back`, step.state);
                  }}
                >
                  <option value="">a step of undo</option>
                  {steps.slice(0, 20).map(({ at }, place) => (
                    <option key={at} value={at}>
                      {place === 0 ? 'one step back' : `${place + 1} steps back`}
                    </option>
                  ))}
                </ChoiceBox>
              </span>
            )}
            <FileButton
              color="inherit"
              accept=".json,application/json"
              name="Compared file"
              take={(file) =>
                attempt(
                  openPlanFile(file).then((read) => {
                    if (!read.ok) return report(read.fault.sentence);
                    setAnchor(undefined);
                    return compare({ name: file.name, plan: read.value });
                  }),
                )
              }
            >
              compare with a plan file…
            </FileButton>
          </div>
        </div>
      </Panel>
    </>
  );
}
