'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { useState } from 'react';
import { type ClockSetting, parseQuantity, printPpm, timerIdOf } from '@herzschlag/core';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import { TextBox } from '../fields/TextBox.tsx';
import { usePlanContext } from './PlanContext.ts';
import styles from './frame.module.css';

type Find = { setting: ClockSetting; phrase: string; errorPpm: number };

/** Finds the clock settings that bring a timer's clock nearest to a wanted frequency; choosing one fills the form. */
export function ClockSearch({
  clock,
  take,
}: {
  clock: () => ClockSetting | undefined;
  take: (setting: ClockSetting) => void;
}) {
  const { plan, part, signal, report } = usePlanContext();
  const [text, setText] = useState('');
  const [found, setFound] = useState<Find[]>();
  const [fault, setFault] = useState<string>();
  const timer =
    part.timers.find((one) => one.id === (signal?.setting ? timerIdOf(signal.setting) : '')) ??
    part.timers[0];

  const search = async () => {
    const wanted = parseQuantity(text, 'frequency');
    const setting = clock();
    if (!wanted.ok) return setFault(wanted.fault.sentence);
    if (!timer || !setting) return;
    setFault(undefined);
    setFound(
      await ask((engine, key) =>
        engine.clocks(key(plan), setting, timer.clock, wanted.value.value.valueOf()),
      ),
    );
  };

  return (
    <div>
      <label className={styles.field}>
        wanted at {timer?.name}
        <TextBox
          value={text}
          placeholder="80 MHz, Enter finds the settings"
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            if (event.key !== 'Enter') return;
            event.preventDefault();
            search().catch((error: unknown) => report(sentenceOfError(error)));
          }}
        />
      </label>
      {fault && <p className={styles.fault}>{fault}</p>}
      {found && (
        <ul className={styles.finds}>
          {found.map(({ setting, phrase, errorPpm }) => (
            <li key={JSON.stringify(setting.settings)}>
              <ButtonBase onClick={() => take(setting)}>
                <span className="mono">{phrase.replace(/^.*? ±\S+( ppm| %)?/, '')}</span>{' '}
                <span className="soft">{printPpm(errorPpm)}</span>
              </ButtonBase>
            </li>
          ))}
          {found.length === 0 && <li className="soft">No legal setting was found with this source.</li>}
        </ul>
      )}
    </div>
  );
}
