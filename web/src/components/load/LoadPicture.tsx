'use client';

import { COLOUR, laneColour } from '../../theme/colour.ts';
import { arc, line } from 'd3';
import { useEffect, useRef, useState } from 'react';
import ButtonBase from '@mui/material/ButtonBase';
import { type LoadPicture as Picture, printNumber, printUnit, strobeView } from '@herzschlag/core';
import styles from './load.module.css';

type Of<K extends Picture['kind']> = Extract<Picture, { kind: K }>;

function Glow({ lightness }: Of<'glow'>) {
  return (
    <g transform="translate(44,32)">
      <circle r={30} fill={laneColour(2)} opacity={(0.35 * lightness) / 100} />
      <circle r={17} fill={laneColour(2)} opacity={0.08 + (0.92 * lightness) / 100} />
      <circle r={17} fill="none" stroke={COLOUR.line} />
    </g>
  );
}

/** The curve of a resonance, with the tone on it. */
function Note({ frequencyHz, levelDb, resonanceHz }: Of<'note'>) {
  const centre = resonanceHz ?? frequencyHz;
  const x = (hz: number): number => 44 + 15 * Math.max(-2.7, Math.min(2.7, Math.log2(hz / centre)));
  const y = (db: number): number => 10 + Math.min(48, (-db / 40) * 48);
  const places = Array.from({ length: 61 }, (_, at) => (at - 30) / 11);
  const bell = line<number>(
    (octaves) => 44 + 15 * octaves,
    (octaves) => y(-10 * Math.log10(1 + (6 * (2 ** octaves - 2 ** -octaves)) ** 2)),
  )(places);
  return (
    <g>
      {resonanceHz !== undefined && bell && (
        <path d={bell} fill="none" stroke={COLOUR.line} strokeWidth={1.5} />
      )}
      <line
        x1={x(frequencyHz)}
        x2={x(frequencyHz)}
        y1={60}
        y2={y(levelDb)}
        stroke={COLOUR.pulse}
        strokeWidth={2}
      />
      <circle cx={x(frequencyHz)} cy={y(levelDb)} r={4.5} fill={COLOUR.pulse} />
    </g>
  );
}

function Rhythm({ duty }: Of<'rhythm'>) {
  return (
    <g>
      {[0, 1, 2].map((at) => (
        <rect
          key={at}
          x={4 + at * 28}
          y={24}
          width={Math.max(1, 26 * duty)}
          height={18}
          fill={COLOUR.pulse}
        />
      ))}
      <line x1={2} x2={86} y1={44} y2={44} stroke={COLOUR.line} />
    </g>
  );
}

/** A horn on a servo's axis, within the turn between its ends. */
function Arm({ degrees, from, to, inside }: Of<'arm'>) {
  const middle = (from + to) / 2;
  const angle = Math.max(-200, Math.min(200, degrees - middle));
  const half = Math.min(175, (to - from) / 2);
  const fan = arc()({
    innerRadius: 27,
    outerRadius: 30,
    startAngle: (-half * Math.PI) / 180,
    endAngle: (half * Math.PI) / 180,
  });
  const colour = inside ? COLOUR.pulse : COLOUR.fail;
  return (
    <g transform="translate(44,34)">
      {fan && <path d={fan} fill={COLOUR.line} />}
      <g transform={`rotate(${angle.toFixed(2)})`} data-testid="arm" data-degrees={degrees.toFixed(2)}>
        <path d="M-5,0L-2,-25A2,2 0 0 1 2,-25L5,0Z" fill={colour} />
      </g>
      <circle r={6} fill={colour} />
      <circle r={2} fill={COLOUR.paper} />
    </g>
  );
}

function Spin({ meanShare, rippleShare, turns }: Of<'spin'>) {
  const sweep = (share: number): number => -2.2 + 4.4 * share;
  const full = arc()({ innerRadius: 24, outerRadius: 29, startAngle: sweep(0), endAngle: sweep(1) });
  const mean = arc()({ innerRadius: 24, outerRadius: 29, startAngle: sweep(0), endAngle: sweep(meanShare) });
  const ripple = arc()({
    innerRadius: 18,
    outerRadius: 21,
    startAngle: sweep(Math.max(0, meanShare - rippleShare / 2)),
    endAngle: sweep(Math.min(1, meanShare + rippleShare / 2)),
  });
  return (
    <g transform="translate(44,34)">
      <path d={full ?? ''} fill={COLOUR.hair} />
      <path d={mean ?? ''} fill={turns ? COLOUR.pulse : COLOUR.faint} />
      <path d={ripple ?? ''} fill={COLOUR.soft} />
      <text textAnchor="middle" y={5}>
        {turns ? 'turns' : 'stands'}
      </text>
    </g>
  );
}

function Level({ volts, ripple, supplyV }: Of<'level'>) {
  const y = (v: number): number => 58 - (v / supplyV) * 50;
  return (
    <g>
      <rect x={34} y={8} width={20} height={50} fill={COLOUR.hair} />
      <rect
        x={34}
        y={y(volts + ripple / 2)}
        width={20}
        height={Math.max(1.5, y(volts - ripple / 2) - y(volts + ripple / 2))}
        fill={COLOUR.pulse}
      />
      <text x={60} y={14}>
        {printUnit(supplyV, 'V', 3)}
      </text>
      <text x={60} y={60}>
        0
      </text>
    </g>
  );
}

/** The images of a disc as the eye sees them, drifting; it can be paused, and stands where motion is not wanted. */
function Disc({ rpm, marks, flashHz, onS, images }: Of<'disc'>) {
  const group = useRef<SVGGElement>(null);
  const [paused, setPaused] = useState(() => matchMedia('(prefers-reduced-motion: reduce)').matches);
  const { driftTurnsPerS } = strobeView(rpm, marks, flashHz);
  useEffect(() => {
    if (paused) return;
    let frame = 0;
    const begun = performance.now();
    const draw = (now: number): void => {
      const turns = ((now - begun) / 1000) * driftTurnsPerS;
      group.current?.setAttribute('transform', `rotate(${((turns % 1) * 360).toFixed(2)})`);
      frame = requestAnimationFrame(draw);
    };
    frame = requestAnimationFrame(draw);
    return () => cancelAnimationFrame(frame);
  }, [paused, driftTurnsPerS]);
  const wide = Math.min(Math.PI * 2, ((rpm / 60) * onS + 0.02) * Math.PI * 2);
  const mark = arc()({ innerRadius: 8, outerRadius: 26, startAngle: -wide / 2, endAngle: wide / 2 });
  const shown = Math.min(images, 60);
  return (
    <div className={styles.disc}>
      <svg width={88} height={64} role="img" aria-label={`${images} images of the disc`}>
        <g transform="translate(44,32)">
          <circle r={30} fill={COLOUR.wash} stroke={COLOUR.line} />
          <g ref={group} data-testid="disc">
            {Array.from({ length: shown }, (_, at) => (
              <path
                key={at}
                d={mark ?? ''}
                fill={COLOUR.pulse}
                opacity={marks / images}
                transform={`rotate(${(360 * at) / shown})`}
              />
            ))}
          </g>
          <circle r={3} fill={COLOUR.ink} />
        </g>
      </svg>
      <ButtonBase className={styles.tool} aria-pressed={paused} onClick={() => setPaused(!paused)}>
        {paused ? 'let it turn' : 'pause'}
      </ButtonBase>
    </div>
  );
}

function Chain({ leds, share }: Of<'string'>) {
  const shown = Math.min(leds, 24);
  return (
    <g>
      {Array.from({ length: shown }, (_, at) => (
        <circle
          key={at}
          cx={8 + (at % 8) * 10.5}
          cy={14 + Math.floor(at / 8) * 14}
          r={4}
          fill={laneColour(2)}
          opacity={0.15 + 0.85 * share}
        />
      ))}
      {leds > shown && <text x={4} y={60}>{`and ${printNumber(leds - shown)} more`}</text>}
    </g>
  );
}

function drawn(picture: Exclude<Picture, { kind: 'disc' }>) {
  switch (picture.kind) {
    case 'glow':
      return <Glow {...picture} />;
    case 'note':
      return <Note {...picture} />;
    case 'rhythm':
      return <Rhythm {...picture} />;
    case 'arm':
      return <Arm {...picture} />;
    case 'spin':
      return <Spin {...picture} />;
    case 'level':
      return <Level {...picture} />;
    case 'string':
      return <Chain {...picture} />;
  }
}

/** What a load does, drawn small. */
export function LoadPicture({ picture }: { picture: Picture }) {
  if (picture.kind === 'disc') return <Disc {...picture} />;
  return (
    <svg
      className={styles.picture}
      width={picture.kind === 'level' ? 104 : 88}
      height={66}
      aria-hidden="true"
    >
      {drawn(picture)}
    </svg>
  );
}
