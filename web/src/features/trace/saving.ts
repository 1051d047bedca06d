import type { Plan } from '@herzschlag/core';
import type { Window } from '../../components/drawing/lanes.ts';
import { saveBlob, saveText } from '../../state/file.ts';
import { ask } from '../../worker/engine.ts';
import { resolved } from '../../theme/colour.ts';
import { svgPicture } from './picture.ts';
import type { TraceLane } from './useLanes.ts';

/** The longest time that is written into a file of edges, and of sound, in s. */
const LONGEST = 3600;
const LONGEST_SOUND = 600;

/** What is saved, and in which form. */
export type Saving = {
  kind: string;
  plan: Plan;
  lanes: readonly TraceLane[];
  /** The chosen lane. */
  lane: string;
  window: Window;
  size: { width: number; height: number };
  /** How far the computed lanes go, in s. */
  until: number;
  board: HTMLElement | null;
};

function savePicture({ kind, lanes, window, size, board }: Saving): void {
  if (!board) return;
  if (kind === 'png') {
    board.querySelector('canvas')?.toBlob((blob) => {
      if (blob) saveBlob('trace.png', blob);
    });
    return;
  }
  const colourOf = (name: string): string => resolved(board, name);
  saveText('trace.svg', svgPicture(lanes, window, size, colourOf), 'image/svg+xml');
}

/**
 * Saves the picture of the lanes (png, svg), the computed lanes from the start on (vcd, csv), or one as sound (wav). Gives
 * a sentence where there are too many edges for a file.
 */
export async function saveTrace(saving: Saving): Promise<string | undefined> {
  const { kind, plan, lane, until } = saving;
  if (kind === 'png' || kind === 'svg') {
    savePicture(saving);
    return undefined;
  }
  if (kind === 'wav') {
    const seconds = Math.min(LONGEST_SOUND, Math.max(until, 1));
    const bytes = await ask((engine, key) => engine.sound(key(plan), lane, seconds));
    if (!bytes.ok) return bytes.fault.sentence;
    if (bytes.value) saveBlob('trace.wav', new Blob([bytes.value as BlobPart], { type: 'audio/wav' }));
    return undefined;
  }
  if (kind !== 'vcd' && kind !== 'csv') return undefined;
  const seconds = Math.min(LONGEST, until);
  const text = await ask((engine, key) => engine.fileText(key(plan), kind, seconds));
  if (!text.ok) return text.fault.sentence;
  saveText(`trace.${kind}`, text.value);
  return undefined;
}
