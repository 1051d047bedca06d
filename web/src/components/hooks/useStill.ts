'use client';

import { useEffect, useState } from 'react';

/** A value that follows another only once that has not changed for a while. */
export function useStill<T>(value: T, ms: number): T {
  const [still, setStill] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setStill(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return still;
}
