'use client';

import { useMemo, useState, type KeyboardEvent, type MouseEvent } from 'react';
import { type DriveId, type Point, RANKINGS, type Ranking, type Surroundings, meansOf, numbersText, pinName, printHz, printNumber, printPercent, printPpm, timerIdOf } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { LandscapePlot } from './LandscapePlot.tsx';
import { plotOf, SIZE, type Plot } from './plot.ts';
import type { SignalEditor } from './useSignalView.ts';
import styles from './fit.module.css';

/** The marks of the drawing as signs of the text. */
const MARKS: Record<DriveId, string> = {
  pwm: '●',
  toggle: '△',
  interrupt: '□',
  'software-pwm': '◇',
  'interrupt-pair': '▽',
  'delay-loop': '▭',
  capture: '⬡',
};

/** What the drives are called where there is little room. */
const SHORT: Record<DriveId, string> = {
  pwm: 'PWM',
  toggle: 'toggled',
  interrupt: 'interrupt',
  'software-pwm': 'software',
  'interrupt-pair': 'pair',
  'delay-loop': 'loop',
  capture: 'capture',
};

const RANKING_WORDS: Record<Ranking, string> = {
  cpu: 'least CPU',
  closest: 'closest',
  finest: 'finest',
  jitter: 'least jitter',
};

function sameSetting(one: Point['setting'], other: Point['setting'] | undefined): boolean {
  return (
    other !== undefined &&
    timerIdOf(one) === timerIdOf(other) &&
    one.drive === other.drive &&
    meansOf(one) === meansOf(other) &&
    numbersText(one) === numbersText(other)
  );
}

function describe(point: Point, timer: string, pin: string): string {
  const { setting } = point;
  const cost = point.cpu === 0 ? '' : `, ${printPercent(point.cpu, 3)} of the CPU`;
  if (setting.drive === 'capture') {
    return (
      `${timer} ${meansOf(setting)}${pin}, ÷ ${setting.prescaler}: from ${printHz(point.frequencyHz)} on, ` +
      `${printNumber(point.steps)} counts at the fastest${cost}`
    );
  }
  const error = point.errorPpm === 0 ? '' : ` ${printPpm(point.errorPpm)}`;
  return (
    `${timer} ${meansOf(setting)}${pin}, ${numbersText(setting)}: ` +
    `${printHz(point.frequencyHz)}${error}, ${printPercent(point.duty, 4)}, ${printNumber(point.steps)} steps${cost}`
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
export function Landscape({ editor }: { editor: SignalEditor }) {
  const { around } = editor;
  return (
    <section aria-label="Landscape" className={styles.landscape}>
      {around && <Laid editor={editor} around={around} />}
    </section>
  );
}

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
      <select
        className={styles.filterList}
        aria-label="Timers"
        value={chosen ?? ''}
        onChange={(event) => choose(event.target.value === '' ? undefined : event.target.value)}
      >
        <option value="">all timers</option>
        {timers.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
    );
  }
  return (
    <span className={styles.filters} role="group" aria-label="Timers">
      {[{ id: undefined, name: 'all' }, ...timers].map(({ id, name }) => (
        <button
          key={name}
          type="button"
          className={`plain ${styles.filter}`}
          aria-pressed={chosen === id}
          onClick={() => choose(id)}
        >
          {name}
        </button>
      ))}
    </span>
  );
}

function Laid({ editor, around }: { editor: SignalEditor; around: Surroundings }) {
  const { part, plan } = usePlanContext();
  const { landscape, considered } = around;
  const { setting } = editor.view;
  const [timer, setTimer] = useState<string>();
  const [looked, setLooked] = useState<Point>();
  const plot = useMemo(() => plotOf(landscape, timer), [landscape, timer]);
  const chosen = plot.points.find(({ point }) => sameSetting(point.setting, setting));
  const own = editor.view.outcome;
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
        <span className="soft">{printNumber(considered, 12)} settings within reach</span>
        <select
          className={styles.filterList}
          aria-label="Take the best"
          value=""
          onChange={(event) => editor.takeBest(event.target.value as Ranking)}
        >
          <option value="" disabled>
            take the best by …
          </option>
          {RANKINGS.map((ranking) => (
            <option key={ranking} value={ranking}>
              {RANKING_WORDS[ranking]}
            </option>
          ))}
        </select>
        <TimerFilter timers={timers} chosen={timer} choose={setTimer} />
      </div>
      <svg
        className={styles.plot}
        viewBox={`0 0 ${SIZE.width} ${SIZE.height}`}
        tabIndex={0}
        role="application"
        aria-label="Settings by resolution and error. Arrow keys go through those that nothing beats, Enter chooses."
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
            <circle r={11} fill="none" stroke="var(--pulse)" opacity={0.55} />
            <circle r={6.5} fill="var(--pulse)" />
          </g>
        )}
        {marked && (
          <circle cx={marked.x} cy={marked.y} r={8} fill="none" stroke="var(--ink)" strokeWidth={1.6} />
        )}
      </svg>
      <p className={styles.caption} aria-live="polite" data-testid="looked">
        {looked ? (
          describe(
            looked,
            name(looked.timer),
            looked.setting.pin ? ` on ${pinName(plan, looked.setting.pin)}` : '',
          )
        ) : (
          <>
            {plot.drives.map((drive) => (
              <span key={drive}>
                {MARKS[drive]} {SHORT[drive]}
              </span>
            ))}
            <span style={{ color: 'var(--pulse)' }}>○ nothing beats it</span>
            <span style={{ marginLeft: 'auto' }}>{plot.byError ? 'error, ppm' : 'frequency, Hz'} ↑</span>
          </>
        )}
      </p>
    </>
  );
}
