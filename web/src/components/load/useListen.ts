'use client';

import { useCallback, useEffect, useRef, useState } from 'react';
import { failed, type Result } from '@herzschlag/core';
import { sentenceOfError } from '../../worker/useEngine.ts';
import type { Sound } from '../../worker/calls/load.ts';

/** What is heard now, with the means to stop it. */
type Playing = { context: AudioContext; gain: GainNode; source: AudioBufferSourceNode };

/** One sound after another on the loudspeaker; a new one replaces the one before within some ms. */
export function useListen(report: (sentence: string | undefined) => void) {
  const playing = useRef<Playing>(undefined);
  const asked = useRef(0);
  const loudness = useRef(0);
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
      const running = playing.current;
      const context = running?.context ?? new AudioContext();
      const sound = await make(context.sampleRate).catch((error: unknown) => failed(sentenceOfError(error)));
      const late = own !== asked.current;
      if (late || !sound.ok) {
        // What was opened for this sound alone is closed again.
        if (!running) void context.close();
        if (late || sound.ok) return;
        report(sound.fault.sentence);
        stop();
        return;
      }
      playing.current?.source.stop();
      const { samples, rate } = sound.value;
      const buffer = context.createBuffer(1, Math.max(1, samples.length), rate);
      buffer.copyToChannel(Float32Array.from(samples), 0);
      const gain = running?.gain ?? context.createGain();
      gain.gain.setValueAtTime(loudness.current, context.currentTime);
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
    // The ear takes equal ratios of the power for equal steps.
    loudness.current = volume ** 2;
    if (playing.current) playing.current.gain.gain.value = loudness.current;
  }, [volume]);

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
