'use client';

import { COLOUR } from '../../theme/colour.ts';
import ButtonBase from '@mui/material/ButtonBase';
import { scaleLinear } from 'd3';
import {
  type SpanReport,
  printHz,
  printNumber,
  printPercent,
  printPpm,
  printSeconds,
} from '@herzschlag/core';
import { saveText } from '../../state/file.ts';
import { SavePicture } from '../../components/drawing/SavePicture.tsx';
import styles from './fit.module.css';

const SIZE = { width: 600, height: 30 } as const;

/** What a 12-bit knob gives for each position the hardware can make. */
const KNOB = 4096;

const UNIT = { frequency: 'Hz', width: 's', duty: 'share' } as const;
const PRINT = { frequency: printHz, width: printSeconds, duty: printPercent } as const;

function tableText({ of, table }: SpanReport): string {
  const unit = UNIT[of];
  const rows = table.map(({ wanted, made, register }) => `${wanted},${made},${register}`);
  return [`wanted ${unit},made ${unit},register`, ...rows, ''].join('\n');
}

/** Teeth of the comb stand at least so far apart, so that many positions do not run into a solid bar. */
const GAP = 5;

/** Every so many of the places, so that they stand apart; the first always. */
function apart(places: readonly number[]): number[] {
  const kept: number[] = [];
  for (const place of places) {
    if (kept.length === 0 || place - (kept[kept.length - 1] ?? 0) >= GAP) kept.push(place);
  }
  return kept;
}

/** The values a setting can make over its span, each as a tooth; where they stand far apart, a knob jumps. */
export function Span({ span }: { span: SpanReport }) {
  const print = PRINT[span.of];
  const x = scaleLinear([span.low, span.high], [2, SIZE.width - 2]);
  const teeth = apart(span.comb.map(x));
  const comb = teeth.map((at) => `M${at.toFixed(1)},4V22`).join('');
  const knob = KNOB / span.positions;
  return (
    <div className={styles.span} data-testid="span" data-pictured>
      <svg
        viewBox={`0 0 ${SIZE.width} ${SIZE.height}`}
        className={styles.plot}
        role="img"
        aria-label="Values within the span"
      >
        <rect x={2} y={4} width={SIZE.width - 4} height={18} fill={COLOUR.wash} />
        <path d={comb} stroke={COLOUR.pulse} strokeWidth={teeth.length > 60 ? 1 : 1.4} fill="none" />
      </svg>
      <p className={styles.caption}>
        <span>
          <b>{printNumber(span.positions)} positions</b>
          {teeth.length < span.comb.length || span.comb.length < span.positions
            ? `, each mark stands for ${printNumber(span.positions / teeth.length, 2)}`
            : ''}
        </span>
        <span>
          largest step {print(span.coarsest, 3)} at {print(span.coarsestAt, 3)}, error up to{' '}
          {printPpm(span.worstPpm).replace('+', '')}
        </span>
        <SavePicture name="Span" />
        {knob > 1.5 && <span>{printNumber(knob, 3)} of 4 096 knob counts each</span>}
        <ButtonBase
          className={styles.filter}
          onClick={() => saveText('span.csv', tableText(span), 'text/csv')}
        >
          save table
        </ButtonBase>
      </p>
    </div>
  );
}
