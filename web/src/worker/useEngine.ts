'use client';

import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { ask, search, type Call } from './engine.ts';

const numbers = new WeakMap<object, number>();
let count = 0;

/** A number that tells one object from another, so that a question need not be compared by all of its text. */
function identityOf(value: object): number {
  const known = numbers.get(value) ?? (count += 1);
  numbers.set(value, known);
  return known;
}

/** Part of a question's key: a plan by its identity, everything else as it is. */
type KeyPart = string | number | boolean | undefined | null | readonly string[] | object;

function keyOf(part: KeyPart): unknown {
  return typeof part === 'object' && part !== null && !Array.isArray(part) ? identityOf(part) : part;
}

/** The result of a search, which is stopped when nobody wants it any more. */
function searched<T>(call: Call<T>, signal: AbortSignal): Promise<T> {
  const { result, stop } = search(call);
  signal.addEventListener('abort', stop);
  return result;
}

/**
 * What the engine answers to a question; undefined until it has. It is asked again when the key changes: until the new
 * answer is there, the one before stands where `keep` is set. One that `searches` has a worker that does nothing else, and is
 * stopped when it is no longer wanted. What goes wrong is handed to `report` as one sentence.
 */
export function useEngine<T>(
  key: readonly KeyPart[],
  call: Call<T>,
  {
    enabled = true,
    keep = false,
    searches = false,
    report,
  }: { enabled?: boolean; keep?: boolean; searches?: boolean; report?: (sentence: string) => void } = {},
): { value: T | undefined; current: boolean; fault?: string } {
  const { data, error, isPlaceholderData } = useQuery<{ value: T }>({
    queryKey: key.map(keyOf),
    // A query that takes its signal is ended when its component goes.
    queryFn: async (query) => ({
      value: await (searches ? searched(call, query.signal) : ask(call)),
    }),
    enabled,
    ...(keep ? { placeholderData: (before: { value: T } | undefined) => before } : {}),
  });
  useEffect(() => {
    if (error) report?.(error.message);
  }, [error, report]);
  return {
    value: data?.value,
    current: data !== undefined && !isPlaceholderData,
    ...(error ? { fault: error.message } : {}),
  };
}

/** What is told of an error that something threw. */
export function sentenceOfError(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
