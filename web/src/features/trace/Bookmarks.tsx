'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { printSeconds } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import styles from './trace.module.css';

/** Moments kept in the plan: the active cursor's is added, a click goes to one, the cross takes it away. */
export function Bookmarks({ at, go }: { at: number; go: (atS: number) => void }) {
  const { plan, change } = usePlanContext();
  const bookmarks = plan.bookmarks ?? [];
  const put = (next: typeof bookmarks): void => {
    change((now) => ({ ...now, bookmarks: next }));
  };
  return (
    <span className={styles.bookmarks}>
      {bookmarks.map((mark, index) => (
        <span key={`${mark.atS} ${index}`}>
          <ButtonBase onClick={() => go(mark.atS)} data-bookmark={mark.name}>
            {mark.name}
          </ButtonBase>
          <ButtonBase
            aria-label={`Remove ${mark.name}`}
            onClick={() => put(bookmarks.filter((_, other) => other !== index))}
          >
            ×
          </ButtonBase>
        </span>
      ))}
      <ButtonBase
        className={styles.tool}
        onClick={() => put([...bookmarks, { atS: at, name: printSeconds(at, 6) }])}
      >
        mark
      </ButtonBase>
    </span>
  );
}
