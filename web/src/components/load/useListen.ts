'use client';

import { useCallback, useEffect, useRef, useState } from 'react';
import type { Result } from '@herzschlag/core';
import type { Sound } from '../../worker/load-calls.ts';

/** What is heard now, with the means to stop it. */
type Playing = { context: AudioContext; gain: GainNode; source: AudioBufferSourceNode };

/** One sound after another on the loudspeaker; a new one replaces the one before within some ms. */
export function useListen(report: (sentence: string | undefined) => void) {
  const playing = useRef<Playing>(undefined);
  const asked = useRef(0);
  const [on, setOn] = useState(false);
  const [volume, setVolume] = useState(0.5);

  const silence = useCallback(() => {
    const { context, source } = playing.current ?? {};
    playing.current = undefined;
    source?.stop();
    if (context) void context.close();
  }, []);

  const stop = useCallback(() => {
    asked.current += 1;
    silence();
    setOn(false);
  }, [silence]);

  const play = useCallback(
    async (make: (rate: number) => Promise<Result<Sound>>) => {
      asked.current += 1;
      const own = asked.current;
      setOn(true);
      const context = playing.current?.context ?? new AudioContext();
      const sound = await make(context.sampleRate);
      if (own !== asked.current) return;
      if (!sound.ok) {
        report(sound.fault.sentence);
        stop();
        return;
      }
      playing.current?.source.stop();
      const { samples, rate } = sound.value;
      const buffer = context.createBuffer(1, Math.max(1, samples.length), rate);
      buffer.copyToChannel(Float32Array.from(samples), 0);
      const gain = playing.current?.gain ?? context.createGain();
      gain.connect(context.destination);
      const source = context.createBufferSource();
      source.buffer = buffer;
      source.connect(gain);
      source.onended = () => {
        if (playing.current?.source === source) stop();
      };
      playing.current = { context, gain, source };
      source.start();
    },
    [report, stop],
  );

  useEffect(() => {
    if (playing.current) playing.current.gain.gain.value = volume ** 2;
  }, [volume, on]);

  useEffect(() => {
    if (!on) return;
    const press = (event: KeyboardEvent): void => {
      if (event.key === 'Escape') {
        event.stopPropagation();
        stop();
      }
    };
    window.addEventListener('keydown', press, { capture: true });
    return () => window.removeEventListener('keydown', press, { capture: true });
  }, [on, stop]);

  useEffect(() => silence, [silence]);

  return { on, play, stop, volume, setVolume };
}
