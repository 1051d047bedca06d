'use client';

import { scaleLinear } from 'd3';
import { type SpanReport, printHz, printNumber, printPpm, printSeconds } from '@herzschlag/core';
import { saveText } from '../../state/file.ts';
import styles from './fit.module.css';

const SIZE = { width: 600, height: 30 } as const;

/** What a 12-bit knob gives for each position the hardware can make. */
const KNOB = 4096;

function tableText({ of, table }: SpanReport): string {
  const unit = of === 'frequency' ? 'Hz' : 's';
  const rows = table.map(({ wanted, made, register }) => `${wanted},${made},${register}`);
  return [`wanted ${unit},made ${unit},register`, ...rows, ''].join('\n');
}

/** The values a setting can make over its span, each as a tooth; where they stand far apart, a knob jumps. */
export function Span({ span }: { span: SpanReport }) {
  const print = span.of === 'frequency' ? printHz : printSeconds;
  const x = scaleLinear([span.low, span.high], [2, SIZE.width - 2]);
  const comb = span.comb.map((value) => `M${x(value).toFixed(1)},4V22`).join('');
  const knob = KNOB / span.positions;
  return (
    <div className={styles.span} data-testid="span">
      <svg
        viewBox={`0 0 ${SIZE.width} ${SIZE.height}`}
        className={styles.plot}
        role="img"
        aria-label="Values within the span"
      >
        <rect x={2} y={4} width={SIZE.width - 4} height={18} fill="var(--wash)" />
        <path d={comb} stroke="var(--pulse)" strokeWidth={span.positions > 200 ? 2.6 : 1.4} />
      </svg>
      <p className={styles.caption}>
        <span>
          <b>{printNumber(span.positions)} positions</b>
        </span>
        <span>
          steps up to {print(span.coarsest, 3)} at {print(span.coarsestAt, 3)}, off by{' '}
          {printPpm(span.worstPpm).replace('+', '')}
        </span>
        {knob > 1.5 && <span>{printNumber(knob, 3)} of 4 096 knob counts each</span>}
        <button
          type="button"
          className={`plain ${styles.filter}`}
          onClick={() => saveText('span.csv', tableText(span), 'text/csv')}
        >
          save table
        </button>
      </p>
    </div>
  );
}
