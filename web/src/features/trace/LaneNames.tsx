'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { type Check, printSeconds, worstVerdict } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { marginText } from '../../components/verdict/marginText.ts';
import { verdictClass, VerdictSign } from '../../components/verdict/VerdictSign.tsx';
import { laneHeight, RULER } from './Lanes.tsx';
import styles from './trace.module.css';
import type { CaptureState } from './useCapture.ts';
import type { TraceLane } from './useLanes.ts';

/** Lanes lower than this have room for the name alone, in pixels. */
const ROOMY = 44;

/** When the pin first moves after its timer has started. */
function startText({ computed }: TraceLane): string {
  const first = computed?.level(0) === 1 ? 0 : computed?.next(0);
  return first === undefined
    ? 'no edges'
    : first === 0
      ? 'high from the start'
      : `first edge ${printSeconds(first, 4)}`;
}

/** The names of the lanes beside them; a click chooses one. */
export function LaneNames({
  lanes,
  selected,
  height,
  select,
}: {
  lanes: readonly TraceLane[];
  selected: number;
  height: number;
  select: (lane: number) => void;
}) {
  return (
    <div className={styles.names} style={{ paddingTop: RULER }}>
      {lanes.map((lane, at) => (
        <ButtonBase
          key={lane.id}
          type="button"
          className={styles.name}
          style={{ height: laneHeight(lanes.length, height) }}
          aria-pressed={at === selected}
          onClick={() => select(at)}
          data-lane={lane.id}
        >
          <span className={styles.mark} style={{ background: lane.colour }} />
          <span>
            <b className="serif">{lane.name}</b>
            <small hidden={laneHeight(lanes.length, height) < ROOMY}>
              {lane.wire === undefined
                ? lane.simulated
                  ? 'below: simulated'
                  : lane.computed
                    ? startText(lane)
                    : 'an input'
                : lane.computed
                  ? `captured: ${lane.wire}`
                  : 'not assigned to a signal'}
            </small>
          </span>
        </ButtonBase>
      ))}
    </div>
  );
}

function Verdict({ checks, of }: { checks: readonly Check[] | undefined; of: string }) {
  if (!checks || checks.length === 0) return <span className={verdictClass('unknown')}>–</span>;
  const verdict = worstVerdict(checks.map((check) => check.verdict));
  const told = checks.filter((check) => check.verdict === verdict);
  const first = told[0];
  const title = checks
    .map(
      (check) =>
        `${check.label ?? check.property} ${check.verdict}${check.periods ? `, over ${check.periods} periods` : ''}${check.note ? `: ${check.note}` : ''}`,
    )
    .join('\n');
  return (
    <span className={verdictClass(verdict)} title={title} data-verdict={verdict} data-of={of}>
      <VerdictSign verdict={verdict} />{' '}
      {verdict === 'pass'
        ? `${checks.length} pass`
        : `${first?.label ?? first?.property} ${first ? marginText(first) : ''}`}
    </span>
  );
}

/** The checks of each lane beside it: of the computed trace, and of the capture. */
export function LaneChecks({
  lanes,
  editor,
  height,
}: {
  lanes: readonly TraceLane[];
  editor: CaptureState;
  height: number;
}) {
  const { evaluation } = usePlanContext();
  return (
    <div className={styles.checks}>
      <div className={styles.checkHead} style={{ height: RULER }}>
        <span>computed</span>
        <span>captured</span>
      </div>
      {lanes.map((lane) => {
        const row = evaluation.signals.find(({ signal }) => signal.id === lane.id);
        const pair = editor.comparison?.pairs.find(({ signal }) => signal === lane.id);
        return (
          <div key={lane.id} className={styles.check} style={{ height: laneHeight(lanes.length, height) }}>
            {row && row.conflicts.length > 0 ? (
              <span className={verdictClass('fail')} data-verdict="fail" data-of="computed">
                <VerdictSign verdict="fail" /> conflict
              </span>
            ) : (
              <Verdict checks={row?.outcome?.checks} of="computed" />
            )}
            <Verdict checks={pair?.checks} of="captured" />
          </div>
        );
      })}
    </div>
  );
}
