'use client';

import { COLOUR } from '../../theme/colour.ts';
import ButtonBase from '@mui/material/ButtonBase';
import { memo, useMemo, useState, type KeyboardEvent, type MouseEvent } from 'react';
import {
  isInput,
  sameSetting,
  type Point,
  RANKINGS,
  type Ranking,
  type Surroundings,
  meansOf,
  numbersText,
  pinName,
  printHz,
  printCount,
  printNumber,
  printPercent,
  printPpm,
} from '@herzschlag/core';
import { ChoiceBox } from '../../components/fields/ChoiceBox.tsx';
import type { PartFacts } from '../../worker/facts.ts';
import { LandscapePlot } from './LandscapePlot.tsx';
import { plotOf, SIZE, type Plot } from './plot.ts';
import { useSurroundings } from './Surroundings.tsx';
import type { SignalEditor } from './useSignalView.ts';
import { SavePicture } from '../../components/drawing/SavePicture.tsx';
import styles from './fit.module.css';

const RANKING_WORDS: Record<Ranking, string> = {
  cpu: 'lowest CPU load',
  closest: 'smallest error',
  finest: 'highest resolution',
  jitter: 'lowest jitter',
  readable: 'round numbers',
};

function describe(point: Point, timer: string, pin: string): string {
  const { setting } = point;
  const cost = point.cpu === 0 ? '' : `, ${printPercent(point.cpu, 3)} of the CPU`;
  if (isInput(setting)) {
    return (
      `${timer} ${meansOf(setting)}${pin}, ÷ ${setting.prescaler}: from ${printHz(point.frequencyHz)} up, ` +
      `${printNumber(point.steps)} counts at the fastest input${cost}`
    );
  }
  const error = point.errorPpm === 0 ? '' : ` ${printPpm(point.errorPpm)}`;
  return (
    `${timer} ${meansOf(setting)}${pin}, ${numbersText(setting)}: ` +
    `${printHz(point.frequencyHz)}${error}, ${printPercent(point.duty, 4)}, ${printNumber(point.steps)} steps${cost}` +
    (point.readable === undefined ? '' : ` · ${point.readable}`)
  );
}

function nearest(plot: Plot, event: MouseEvent<SVGSVGElement>): Point | undefined {
  const box = event.currentTarget.getBoundingClientRect();
  const x = ((event.clientX - box.left) / box.width) * SIZE.width;
  const y = ((event.clientY - box.top) / box.height) * SIZE.height;
  const found = plot.tree.find(x, y, 30);
  return found?.point;
}

/** Every setting within reach as a point: resolution across, error or frequency up; a click or Enter chooses. */
export const Landscape = memo(function Landscape({
  editor,
  part,
}: {
  editor: SignalEditor;
  part: PartFacts;
}) {
  const around = useSurroundings();
  return (
    <section aria-label="Landscape" className={styles.landscape}>
      {around && <Chart editor={editor} around={around} part={part} />}
    </section>
  );
});

/** So many timers are offered side by side; more go into a list. */
const SIDE_BY_SIDE = 4;

function TimerFilter({
  timers,
  chosen,
  choose,
}: {
  timers: readonly { id: string; name: string }[];
  chosen: string | undefined;
  choose: (id: string | undefined) => void;
}) {
  if (timers.length > SIDE_BY_SIDE) {
    return (
      <ChoiceBox
        className={styles.filterList ?? ''}
        label="Timers"
        value={chosen ?? ''}
        take={(id) => choose(id === '' ? undefined : id)}
      >
        <option value="">all timers</option>
        {timers.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </ChoiceBox>
    );
  }
  return (
    <span className={styles.filters} role="group" aria-label="Timers">
      {[{ id: undefined, name: 'all' }, ...timers].map(({ id, name }) => (
        <ButtonBase
          key={name}
          type="button"
          className={styles.filter}
          aria-pressed={chosen === id}
          onClick={() => choose(id)}
        >
          {name}
        </ButtonBase>
      ))}
    </span>
  );
}

function Chart({ editor, around, part }: { editor: SignalEditor; around: Surroundings; part: PartFacts }) {
  const { plan } = editor;
  const { landscape, considered } = around;
  const own = editor.outcome;
  const setting = own?.setting;
  const [timer, setTimer] = useState<string>();
  const [looked, setLooked] = useState<Point>();
  const plot = useMemo(() => plotOf(landscape, timer), [landscape, timer]);
  const chosen = useMemo(
    () => setting && plot.points.find(({ point }) => sameSetting(point.setting, setting)),
    [plot, setting],
  );
  const here =
    own && setting
      ? plot.place(own.bits, landscape.height === 'error' ? Math.abs(own.errorPpm ?? 0) : own.frequencyHz)
      : undefined;
  const marked = looked && plot.points.find(({ point }) => point === looked);
  const name = (id: string): string => part.timers.find((one) => one.id === id)?.name ?? id;
  const timers = part.timers.filter((one) => landscape.points.some((point) => point.timer === one.id));

  const press = (event: KeyboardEvent) => {
    const order = plot.walk;
    if (order.length === 0) return;
    const at = order.findIndex((point) => point === (looked ?? chosen?.point));
    const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (by !== undefined) {
      event.preventDefault();
      setLooked(order[Math.min(order.length - 1, Math.max(0, at + by))]);
    } else if (event.key === 'Enter' && looked) {
      event.preventDefault();
      editor.choose(looked.setting);
    }
  };

  return (
    <>
      <div className={styles.head}>
        <h2 className="label">Landscape</h2>
        <span className="soft">{considered === 1 ? '1 setting' : `${printCount(considered)} settings`}</span>
        <ChoiceBox
          className={styles.filterList ?? ''}
          label="Use the best setting by"
          value=""
          take={(ranking) => editor.takeBest(ranking as Ranking)}
        >
          <option value="" disabled>
            use the best by …
          </option>
          {RANKINGS.map((ranking) => (
            <option key={ranking} value={ranking}>
              {RANKING_WORDS[ranking]}
            </option>
          ))}
        </ChoiceBox>
        <TimerFilter timers={timers} chosen={timer} choose={setTimer} />
        <SavePicture name="Landscape" />
      </div>
      <svg
        className={styles.plot}
        viewBox={`0 0 ${SIZE.width} ${SIZE.height}`}
        tabIndex={0}
        role="application"
        aria-label="Settings by resolution and error. Arrow keys move through those that meet the target, Enter chooses."
        data-testid="landscape"
        onKeyDown={press}
        onMouseMove={(event) => setLooked(nearest(plot, event))}
        onMouseLeave={() => setLooked(undefined)}
        onBlur={() => setLooked(undefined)}
        onClick={(event) => {
          const point = nearest(plot, event);
          if (point) editor.choose(point.setting);
        }}
        style={{ cursor: looked ? 'pointer' : 'default' }}
      >
        <LandscapePlot plot={plot} />
        {here && (
          <g transform={`translate(${here[0]},${here[1]})`} data-testid="chosen-point">
            <circle r={11} fill="none" stroke={COLOUR.pulse} opacity={0.55} />
            <circle r={6.5} fill={COLOUR.pulse} />
          </g>
        )}
        {marked && (
          <circle cx={marked.x} cy={marked.y} r={8} fill="none" stroke={COLOUR.ink} strokeWidth={1.6} />
        )}
      </svg>
      <p className={styles.caption} aria-live="polite" data-testid="looked">
        {looked ? (
          describe(
            looked,
            name(looked.timer),
            looked.setting.pin !== undefined ? ` on ${pinName(plan, looked.setting.pin)}` : '',
          )
        ) : (
          <>
            {plot.shown.map(({ drive, sign, short }) => (
              <span key={drive}>
                {sign} {short}
              </span>
            ))}
            <span style={{ color: COLOUR.pulse }}>○ trade-offs</span>
            {plot.round !== '' && <span>▁ round</span>}
            <span style={{ marginLeft: 'auto' }}>{plot.byError ? 'error, ppm' : 'frequency, Hz'} ↑</span>
          </>
        )}
      </p>
    </>
  );
}
