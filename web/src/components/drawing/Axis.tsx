'use client';

import { useLayoutEffect, useRef } from 'react';
import { select, type Axis as D3Axis } from 'd3';
import styles from './axis.module.css';

/** An axis with its grid, drawn by D3 at a place of the drawing. */
export function Axis({ axis, at: [x, y] }: { axis: D3Axis<number>; at: [number, number] }) {
  const group = useRef<SVGGElement>(null);
  useLayoutEffect(() => {
    if (group.current) select(group.current).call(axis);
  }, [axis]);
  return <g ref={group} className={styles.axis} transform={`translate(${x},${y})`} />;
}
