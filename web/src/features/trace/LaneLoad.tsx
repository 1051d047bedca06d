'use client';

import ButtonBase from '@mui/material/ButtonBase';
import { useState } from 'react';
import { type EdgeSource, succeeded } from '@herzschlag/core';
import { Panel } from '../../components/frame/Panel.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { Listen, ListenButton } from '../../components/load/Listen.tsx';
import { LoadLens } from '../../components/load/LoadLens.tsx';
import { ask } from '../../worker/engine.ts';
import styles from './trace.module.css';
import type { TraceLane } from './useLanes.ts';

/** How much of a capture is heard, in s, and the most edges of it. */
const HEARD_S = 4;
const MOST_EDGES = 400_000;

/** The edges of a captured pin from a moment on, counted from it. */
function edgesFrom(source: EdgeSource, fromS: number): { edges: Float64Array; start: 0 | 1 } {
  const edges: number[] = [];
  let at = source.next(fromS);
  while (at !== undefined && at < fromS + HEARD_S && edges.length < MOST_EDGES) {
    edges.push(at - fromS);
    at = source.next(at);
  }
  return { edges: Float64Array.from(edges), start: source.level(fromS) === 1 ? 1 : 0 };
}

/** What the load of the selected lane does, and how the lane sounds: as computed, and as captured from cursor A on. */
export function LaneLoad({ lane, fromS }: { lane: TraceLane | undefined; fromS: number }) {
  const { plan, evaluation } = usePlanContext();
  const [button, setButton] = useState<HTMLElement>();
  if (!lane) return null;
  const own = evaluation.signals.find(({ signal }) => signal.id === lane.id);
  const { captured } = lane;
  if (!own?.outcome?.place.pin && !captured) return null;
  return (
    <>
      <ButtonBase className={styles.tool} onClick={(event) => setButton(event.currentTarget)}>
        load
      </ButtonBase>
      <Panel button={button} name={`Load of ${lane.name}`} close={() => setButton(undefined)}>
        <div className={styles.laneLoad}>
          <b className="serif">{lane.name}</b>
          {own?.outcome?.load ? (
            <LoadLens report={own.outcome.load} />
          ) : (
            <p className="soft">The plan does not say what hangs on it; Fit has its load.</p>
          )}
          {own?.outcome && <Listen plan={plan} signal={own.signal} />}
          {captured && (
            <ListenButton
              name="listen to the capture"
              note={`${HEARD_S} s from A`}
              of={captured}
              make={async (rate) => {
                const { edges, start } = edgesFrom(captured, fromS);
                return succeeded(await ask((engine) => engine.heardEdges(edges, start, HEARD_S, rate)));
              }}
            />
          )}
        </div>
      </Panel>
    </>
  );
}
