'use client';

import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { ask, search, type Call, type SearchCall } from './engine.ts';

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

type Options = { enabled?: boolean; keep?: boolean; report?: (sentence: string) => void };
type Answer<T> = { value: T | undefined; current: boolean; fault?: string };

/** The answer to a question; a question that takes the signal of its query is abandoned when it is no longer wanted. */
function useAnswer<T>(
  key: readonly KeyPart[],
  answer: (query: { signal: AbortSignal }) => Promise<T>,
  { enabled = true, keep = false, report }: Options,
): Answer<T> {
  const { data, error, isPlaceholderData } = useQuery<{ value: T }>({
    queryKey: key.map(keyOf),
    queryFn: async (query) => ({ value: await answer(query) }),
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

/**
 * What the engine answers to a question; undefined until it has. It is asked again when the key changes: until the new
 * answer is there, the one before stands where `keep` is set. What goes wrong is handed to `report` as one sentence.
 */
export function useEngine<T>(key: readonly KeyPart[], call: Call<T>, options: Options = {}): Answer<T> {
  return useAnswer(key, () => ask(call), options);
}

/** As `useEngine`, for what takes longer: in a worker that does nothing else, and stopped when it is no longer wanted. */
export function useSearch<T>(
  key: readonly KeyPart[],
  call: SearchCall<T>,
  { asks = false, ...options }: Options & { asks?: boolean } = {},
): Answer<T> {
  const answer = ({ signal }: { signal: AbortSignal }): Promise<T> => {
    const { result, stop } = search(call, { asks });
    signal.addEventListener('abort', stop);
    return result;
  };
  return useAnswer(key, answer, options);
}

/** What is reported of an error that something threw. */
export function sentenceOfError(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
