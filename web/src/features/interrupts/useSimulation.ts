'use client';

import { proxy } from 'comlink';
import { useEffect, useState } from 'react';
import type { Plan } from '@herzschlag/core';
import { search } from '../../worker/engine.ts';
import { sentenceOfError, useEngine } from '../../worker/useEngine.ts';
import type { Picture } from './rows.ts';

/** How long is simulated, and after how many events it ends. Long ones run in a worker of their own and can be stopped. */
export const LENGTHS = [
  { name: '100 ms', seconds: 0.1, most: 10_000, long: false },
  { name: '1 s', seconds: 1, most: 100_000, long: false },
  { name: '10 s', seconds: 10, most: 400_000, long: false },
  { name: '100 s', seconds: 100, most: 1_000_000, long: true },
] as const;

/** The name of one of the lengths. */
export type LengthName = (typeof LENGTHS)[number]['name'];

/** A long simulation under way or done. */
type Long = { plan: Plan; done: number; picture?: Picture };

/**
 * The plan's interrupts simulated for one of the lengths. Until a long simulation has ended there is the one of 1 s; `running`
 * tells how far it has come and stops it.
 */
export function useSimulation(
  plan: Plan,
  length: LengthName,
  tell: (sentence: string | undefined) => void,
  giveUp: () => void,
): { picture: Picture | undefined; running?: { done: number; stop: () => void } } {
  const asked = LENGTHS.find(({ name }) => name === length) ?? LENGTHS[1];
  const short = asked.long ? LENGTHS[1] : asked;
  const { value } = useEngine(
    ['interrupts', plan, short.name],
    (engine, key) => engine.interrupts(key(plan), { seconds: short.seconds, most: short.most, seed: 1 }),
    { keep: true, report: tell },
  );
  const [long, setLong] = useState<Long>();
  useEffect(() => {
    if (!asked.long) return undefined;
    const progress = proxy((done: number) => setLong({ plan, done }));
    const running = search((engine, key) =>
      engine.simulateLong(key(plan), { seconds: asked.seconds, most: asked.most, seed: 1 }, progress),
    );
    running.result.then(
      (picture) => setLong({ plan, done: 1, picture }),
      (error: unknown) => tell(sentenceOfError(error)),
    );
    return () => running.stop();
  }, [plan, asked, tell]);
  if (!asked.long) return { picture: value };
  const own = long?.plan === plan ? long : undefined;
  if (own?.picture) return { picture: own.picture };
  return { picture: value, running: { done: own?.done ?? 0, stop: giveUp } };
}
