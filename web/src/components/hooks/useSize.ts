'use client';

import { useEffect, useState } from 'react';

/** The size of an element as it is on the screen. */
export function useSize(): [(element: HTMLElement | null) => void, { width: number; height: number }] {
  const [element, setElement] = useState<HTMLElement | null>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  useEffect(() => {
    if (!element) return undefined;
    const seen = new ResizeObserver(() =>
      setSize({ width: Math.floor(element.clientWidth), height: Math.floor(element.clientHeight) }),
    );
    seen.observe(element);
    return () => seen.disconnect();
  }, [element]);
  return [setElement, size];
}
