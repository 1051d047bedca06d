import ButtonBase from '@mui/material/ButtonBase';
import type { InterruptReport } from '@herzschlag/core';
import { MAIN, PIN, ROW, RULER, type Pin } from './draw.ts';
import styles from './interrupts.module.css';
import type { TimelineRows } from './rows.ts';

type Props = {
  rows: InterruptReport['rows'];
  data: TimelineRows;
  pin: Pin | undefined;
  selected: number;
  select: (row: number) => void;
};

/** The names left of the timeline, as high as its rows: the pin, the interrupts, the main loop. */
export function TimelineNames({ rows, data, pin, selected, select }: Props) {
  return (
    <div className={styles.names} style={{ paddingTop: RULER }}>
      {pin && (
        <span className={styles.name} style={{ height: PIN }}>
          {pin.name}
        </span>
      )}
      {rows.map((row, at) => (
        <ButtonBase
          key={row.id}
          className={styles.name}
          style={{ height: ROW }}
          aria-pressed={at === selected}
          onClick={() => select(at)}
        >
          <i className={styles.mark} style={{ background: data.rows[at]?.colour }} />
          <span>{row.name}</span>
        </ButtonBase>
      ))}
      <span className={styles.name} style={{ height: MAIN }}>
        main loop
      </span>
    </div>
  );
}
