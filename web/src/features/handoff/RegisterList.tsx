'use client';

import ButtonBase from '@mui/material/ButtonBase';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { useState, type ReactNode } from 'react';
import { binary, hex, shiftsText, type RegisterField, type RegisterRow } from '@herzschlag/core';
import styles from './registers.module.css';

const FORMS = ['hex', 'binary', 'decimal', 'shifts'] as const;
type Form = (typeof FORMS)[number];

/** Values of more signs than this stand beside the name, not below it. */
const SHORT = 14;

/** A value in the form that is chosen. */
function valueText(row: RegisterRow, form: Form): string {
  if (form === 'hex') return hex(row.value, row.width);
  if (form === 'binary') return `0b${binary(row.value, row.width).replaceAll(' ', '')}`;
  return form === 'decimal' ? String(row.value) : shiftsText(row);
}

/** The places of a register to show: every bit of a narrow one, of a wide one the fields that the plan decides. */
function placesOf({ width, fields }: RegisterRow): (RegisterField | number)[] {
  if (fields.length === 0) return [];
  if (width > 8) return fields.filter(({ signals, value }) => signals.length > 0 || value !== 0);
  const places: (RegisterField | number)[] = [];
  for (let bit = width - 1; bit >= 0; bit -= 1) {
    const field = fields.find(({ high, low }) => bit <= high && bit >= low);
    if (!field) places.push(bit);
    else if (bit === field.high) places.push(field);
  }
  return places;
}

function Place({ place, mask }: { place: RegisterField | number; mask: number }) {
  if (typeof place === 'number')
    return (
      <span className={styles.place}>
        <b>–</b>
        <small>{place}</small>
      </span>
    );
  const { name, high, low, value } = place;
  const decided = Math.floor(mask / 2 ** low) % 2 === 1;
  const state = decided ? (value === 0 ? styles.zero : styles.set) : styles.free;
  return (
    <span
      className={`${styles.place} ${state}`}
      style={{ gridColumn: `span ${high - low + 1}` }}
      title={name}
    >
      <b>{value}</b>
      <small>{name}</small>
    </span>
  );
}

/** Every register once: its value and that after reset, its bits with their names, who wants it and where it is written. */
export function RegisterList({
  rows,
  pointed,
  linesOf,
  nameOf,
  colourOf,
  point,
  children,
}: {
  rows: readonly RegisterRow[];
  /** The registers that something else points at. */
  pointed: readonly string[];
  linesOf: (register: string) => readonly number[];
  nameOf: (signal: string) => string;
  colourOf: (signal: string) => string;
  /** Points at a register; `go` where its first line is to come into view. */
  point: (register: string | undefined, go: boolean) => void;
  children: ReactNode;
}) {
  const [form, setForm] = useState<Form>('hex');
  const [copied, setCopied] = useState<string>();
  const copy = (row: RegisterRow) => {
    navigator.clipboard.writeText(valueText(row, form)).then(
      () => setCopied(`${row.name} copied: ${valueText(row, form)}`),
      () => setCopied('The browser did not allow copying.'),
    );
  };
  return (
    <>
      <div className={styles.head}>
        <h2 className="label">Registers</h2>
        <ToggleButtonGroup
          exclusive
          size="small"
          className={styles.forms ?? ''}
          value={form}
          aria-label="Form of the values"
          onChange={(_, next: Form | null) => next && setForm(next)}
        >
          {FORMS.map((one) => (
            <ToggleButton key={one} value={one}>
              {one}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <span className={styles.copied} role="status">
          {copied}
        </span>
        {children}
      </div>
      <ul className={styles.rows} aria-label="Registers in the order of the program">
        {rows.map((row) => {
          const lines = linesOf(row.name);
          const places = placesOf(row);
          const value = valueText(row, form);
          return (
            <li
              key={row.name}
              data-register={row.name}
              className={pointed.includes(row.name) ? `${styles.row} ${styles.pointed}` : styles.row}
              onMouseEnter={() => point(row.name, false)}
              onMouseLeave={() => point(undefined, false)}
            >
              <ButtonBase
                className={styles.name}
                onClick={() => point(row.name, true)}
                onFocus={() => point(row.name, false)}
              >
                <b>{row.name}</b>
                <span className="hidden">show its line</span>
              </ButtonBase>
              <ButtonBase
                className={value.length > SHORT ? `${styles.value} ${styles.long}` : styles.value}
                onClick={() => copy(row)}
              >
                <b>{value}</b>
                <span className="soft">was {row.reset === 0 ? '0' : hex(row.reset, row.width)}</span>
                <span className="hidden">copy {row.name}</span>
              </ButtonBase>
              {places.length > 0 && (
                <span className={row.width > 8 ? `${styles.places} ${styles.wide}` : styles.places}>
                  {places.map((place) => (
                    <Place
                      key={typeof place === 'number' ? place : place.name}
                      place={place}
                      mask={row.mask}
                    />
                  ))}
                </span>
              )}
              <span className={styles.who}>
                {row.signals.map((id) => (
                  <span key={id}>
                    <i style={{ background: colourOf(id) }} />
                    {nameOf(id)}
                  </span>
                ))}
                {row.signals.length === 0 && <span>the clock</span>}
                {lines.length > 0 && (
                  <span className="soft">
                    at {hex(row.address, 8)}, line{lines.length > 1 ? 's' : ''} {lines.slice(0, 4).join(', ')}
                    {lines.length > 4 ? ' …' : ''}
                  </span>
                )}
              </span>
            </li>
          );
        })}
      </ul>
    </>
  );
}
