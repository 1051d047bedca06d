'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import { useRef, useState, type ClipboardEvent, type KeyboardEvent } from 'react';
import {
  deviations,
  parseReadings,
  parseSeen,
  parseSet,
  type Reading,
  type Readings,
  seenText,
  setText,
} from '@herzschlag/core';
import { TextBox } from '../fields/TextBox.tsx';
import styles from './load.module.css';

type Cells = [set: string, seen: string, note: string];

const NEW: Cells = ['', '', ''];
const COLUMNS = ['set', 'seen', 'note'] as const;

function cellsOf({ set, seen, note = '' }: Reading, { of, unit }: Readings): Cells {
  return [setText(of, set, 9), seenText({ unit }, seen, 9), note];
}

/**
 * Readings to type: Enter goes to the next row, the last row is a new one, and rows from a spreadsheet can be pasted into
 * any cell. What is not understood stays where it was typed.
 */
export function ReadingsTable({
  readings,
  take,
  fault,
}: {
  readings: Omit<Readings, 'points'> & { points: Reading[] };
  take: (points: Reading[]) => void;
  fault: (sentence: string | undefined) => void;
}) {
  const { points, of, unit } = readings;
  const [drafts, setDrafts] = useState<Record<number, Cells>>({});
  const body = useRef<HTMLTableSectionElement>(null);
  const rows = [...points.map((one) => cellsOf(one, readings)), NEW];
  const off = points.length > 2 ? deviations(readings).each : [];

  const focus = (row: number, column: number): void => {
    // The row may only be there once the plan has taken the one above.
    requestAnimationFrame(() =>
      body.current?.querySelector<HTMLInputElement>(`[data-cell="${row} ${column}"] input`)?.focus(),
    );
  };
  const drop = (row: number): void => {
    setDrafts(Object.fromEntries(Object.entries(drafts).filter(([at]) => Number(at) !== row)));
  };
  const settle = (row: number): boolean => {
    const cells = drafts[row];
    if (!cells || cells.every((cell, at) => cell === rows[row]?.[at])) {
      drop(row);
      return true;
    }
    const [set, seen, note] = cells;
    if (set.trim() === '' || seen.trim() === '') return false;
    const [readSet, readSeen] = [parseSet(set, of), parseSeen(seen, unit)];
    for (const one of [readSet, readSeen]) {
      if (!one.ok) {
        fault(one.fault.sentence);
        return false;
      }
    }
    if (!readSet.ok || !readSeen.ok) return false;
    if (points.some((one, at) => at !== row && one.set === readSet.value)) {
      fault(`${set} is there twice.`);
      return false;
    }
    const trimmed = note.trim().slice(0, 80);
    const next: Reading = {
      set: readSet.value,
      seen: readSeen.value,
      ...(trimmed === '' ? {} : { note: trimmed }),
    };
    fault(undefined);
    drop(row);
    take(row < points.length ? points.map((one, at) => (at === row ? next : one)) : [...points, next]);
    return true;
  };
  const paste = (event: ClipboardEvent): void => {
    const text = event.clipboardData.getData('text');
    if (!/[\n\t;]/.test(text.trim())) return;
    event.preventDefault();
    const read = parseReadings(text, of, unit);
    if (!read.ok) return fault(read.fault.sentence);
    const pasted = new Set(read.value.map(({ set }) => set));
    fault(undefined);
    setDrafts({});
    take([...points.filter(({ set }) => !pasted.has(set)), ...read.value]);
  };
  const press = (event: KeyboardEvent, row: number, column: number): void => {
    if (event.key === 'Enter') {
      event.preventDefault();
      const [, seen = ''] = drafts[row] ?? rows[row] ?? NEW;
      if (column === 0 && seen.trim() === '') focus(row, 1);
      else if (settle(row)) focus(row + 1, 0);
    }
    if (event.key === 'Escape' && drafts[row]) {
      event.stopPropagation();
      drop(row);
      fault(undefined);
    }
  };
  return (
    <div className={styles.tableScroll}>
      <Table size="small" className={styles.table} aria-label="Readings">
        <TableHead>
          <TableRow>
            <TableCell>Set {of}</TableCell>
            <TableCell>Seen, {unit}</TableCell>
            <TableCell>Note</TableCell>
            <TableCell>{off.length > 0 ? 'Off the line' : 'Delete'}</TableCell>
          </TableRow>
        </TableHead>
        <TableBody ref={body}>
          {rows.map((cells, row) => (
            <TableRow
              key={row}
              onBlur={(event) => !event.currentTarget.contains(event.relatedTarget) && settle(row)}
            >
              {COLUMNS.map((name, column) => (
                <TableCell key={name} data-cell={`${row} ${column}`}>
                  <TextBox
                    label={`${name}, row ${row + 1}`}
                    className={styles.box ?? ''}
                    value={drafts[row]?.[column] ?? cells[column] ?? ''}
                    onChange={(event) => {
                      const next: Cells = [...(drafts[row] ?? cells)];
                      next[column] = event.target.value;
                      setDrafts({ ...drafts, [row]: next });
                    }}
                    onPaste={paste}
                    onKeyDown={(event) => press(event, row, column)}
                  />
                </TableCell>
              ))}
              <TableCell>
                {off[row] === undefined ? '' : seenText(readings, off[row], 2)}{' '}
                {row < points.length && (
                  <ButtonBase
                    aria-label={`Delete row ${row + 1}`}
                    onClick={() => take(points.filter((_, at) => at !== row))}
                  >
                    ✕
                  </ButtonBase>
                )}
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
    </div>
  );
}
