'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Button from '@mui/material/Button';
import { useState } from 'react';
import { type ClockSetting, parseQuantity, printHz } from '@herzschlag/core';
import { saveText } from '../../state/file.ts';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError, useEngine } from '../../worker/useEngine.ts';
import { ChoiceBox } from '../fields/ChoiceBox.tsx';
import { TextBox } from '../fields/TextBox.tsx';
import type { ClockKnob } from '../../worker/facts.ts';
import { ClockSearch } from './ClockSearch.tsx';
import { usePlanContext } from './PlanContext.ts';
import { Panel } from './Panel.tsx';
import styles from './frame.module.css';

type Draft = { source: string; hz: string; ppm: string; settings: Record<string, number | string> };

function draftOf(clock: ClockSetting): Draft {
  return {
    source: clock.source,
    hz: printHz(Number(clock.sourceHz), 9),
    ppm: clock.tolerancePpm === undefined ? '' : `${clock.tolerancePpm} ppm`,
    settings: clock.settings ?? {},
  };
}

function KnobField({
  knob,
  value,
  set,
}: {
  knob: ClockKnob;
  value: number | string;
  set: (value: number | string) => void;
}) {
  if (knob.range) {
    const { min, max } = knob.range;
    return (
      <TextBox
        type="number"
        min={min}
        max={max}
        title={`${min} to ${max}`}
        value={value}
        onChange={(event) => set(Number(event.target.value))}
      />
    );
  }
  const options = knob.options ?? [];
  return (
    <ChoiceBox value={value} take={(text) => set(options.find((option) => String(option) === text) ?? value)}>
      {options.map((option) => (
        <option key={option} value={option}>
          {knob.sign} {option}
        </option>
      ))}
    </ChoiceBox>
  );
}

/** The clock as one phrase; opens for editing its source, frequency, tolerance and dividers. */
export function ClockEditor({ phrase }: { phrase: string }) {
  const { plan, part, commit, report } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [draft, setDraft] = useState(() => draftOf(plan.clock));
  const [fault, setFault] = useState<string>();
  const { value: confirmed } = useEngine(
    ['confirmed', plan],
    (engine, key) => engine.partConfirmed(key(plan)),
    {
      enabled: anchor !== undefined,
      keep: true,
      report,
    },
  );
  const source = part.sources.find((one) => one.id === draft.source);

  const choose = (id: string) => {
    const next = part.sources.find((one) => one.id === id);
    const fixed = typeof next?.hz === 'number' ? printHz(next.hz, 9) : draft.hz;
    setDraft({ ...draft, source: id, hz: fixed, ppm: next ? `${next.tolerancePpm} ppm` : draft.ppm });
  };

  const read = (): ClockSetting | undefined => {
    const hz = parseQuantity(draft.hz, 'frequency');
    const ppm = draft.ppm.trim() === '' ? undefined : parseQuantity(draft.ppm, 'tolerance');
    if (!hz.ok || (ppm && !ppm.ok)) {
      setFault(!hz.ok ? hz.fault.sentence : ppm && !ppm.ok ? ppm.fault.sentence : undefined);
      return undefined;
    }
    return {
      source: draft.source,
      sourceHz: hz.value.value.valueOf(),
      ...(ppm ? { tolerancePpm: ppm.value.value.valueOf() } : {}),
      ...(Object.keys(draft.settings).length > 0 ? { settings: draft.settings } : {}),
    };
  };

  const apply = async () => {
    const clock = read();
    if (!clock) return;
    const legal = await ask((engine, key) => engine.checkClock(key(plan), clock));
    if (!legal.ok) return setFault(legal.fault.sentence);
    const taken = await commit(
      (now) => ({ ...now, clock }),
      (refused) => setFault(refused.plain ?? refused.sentence),
    );
    if (taken) setAnchor(undefined);
  };

  return (
    <>
      <ButtonBase
        className={styles.clock}
        data-testid="clock"
        onClick={(event) => {
          setDraft(draftOf(plan.clock));
          setFault(undefined);
          setAnchor(event.currentTarget);
        }}
      >
        {part.name} · {phrase}
      </ButtonBase>
      <Panel button={anchor} name="Clock" close={() => setAnchor(undefined)}>
        <form
          className={styles.clockForm}
          onSubmit={(event) => {
            event.preventDefault();
            apply().catch((error: unknown) => report(sentenceOfError(error)));
          }}
        >
          <p className="label">Clock of {part.name}</p>
          <p className="soft">
            Register data from: {part.source}.{' '}
            {confirmed &&
              (confirmed.confirmed === confirmed.items
                ? 'Independent sources confirm all of it.'
                : `Independent sources confirm ${confirmed.confirmed} of ${confirmed.items} addresses and fields.`)}{' '}
            Limits: {part.limits.pinMilliamps}&nbsp;mA per pin, up to {printHz(part.limits.maxHz)}.
          </p>
          <label className={styles.field}>
            source
            <ChoiceBox value={draft.source} take={choose}>
              {part.sources.map((one) => (
                <option key={one.id} value={one.id}>
                  {one.name}
                </option>
              ))}
            </ChoiceBox>
          </label>
          <label className={styles.field}>
            frequency
            <TextBox value={draft.hz} onChange={(event) => setDraft({ ...draft, hz: event.target.value })} />
          </label>
          <label className={styles.field}>
            tolerance
            <TextBox
              value={draft.ppm}
              placeholder={`${source?.tolerancePpm ?? 0} ppm`}
              onChange={(event) => setDraft({ ...draft, ppm: event.target.value })}
            />
          </label>
          {part.knobs.map((knob) => (
            <label className={styles.field} key={knob.id}>
              {knob.name}
              <KnobField
                knob={knob}
                value={draft.settings[knob.id] ?? knob.standard}
                set={(value) => setDraft({ ...draft, settings: { ...draft.settings, [knob.id]: value } })}
              />
            </label>
          ))}
          <ClockSearch
            clock={read}
            take={(setting) => setDraft({ ...draft, settings: setting.settings ?? {} })}
          />
          {[source?.note, ...part.knobs.map((knob) => knob.note)].map(
            (note) =>
              note && (
                <p className="soft" key={note}>
                  {note}
                </p>
              ),
          )}
          {fault && (
            <p className={styles.fault} role="alert">
              {fault}
            </p>
          )}
          <p className="soft">Chosen settings do not change; their frequencies follow the clock.</p>
          <div className={styles.formEnd}>
            <Button type="submit" variant="contained">
              Use this clock
            </Button>
            <Button
              color="inherit"
              onClick={() => {
                ask((engine, key) => engine.fileText(key(plan), 'part'))
                  .then((text) => text.ok && saveText(`${part.id}.part.json`, text.value, 'application/json'))
                  .catch((error: unknown) => report(sentenceOfError(error)));
              }}
            >
              Save part file
            </Button>
          </div>
        </form>
      </Panel>
    </>
  );
}
