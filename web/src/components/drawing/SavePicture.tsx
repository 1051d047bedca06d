'use client';

import ButtonBase from '@mui/material/ButtonBase';
import type { MouseEvent } from 'react';
import { sentenceOfError } from '../../worker/useEngine.ts';
import { usePlanContext } from '../frame/PlanContext.ts';
import { drawingIn, savePicture, svgOf, type PictureKind } from './pictures.ts';
import styles from './picture.module.css';

const KINDS: readonly PictureKind[] = ['svg', 'png'];

/** Buttons that save the drawing of the section or figure that they stand in; `svg` gives it where it is not one of the page. */
export function SavePicture({ name, svg }: { name: string; svg?: () => string | undefined }) {
  const { report } = usePlanContext();
  const save = (event: MouseEvent<HTMLButtonElement>, kind: PictureKind): void => {
    const scope = event.currentTarget.closest('[data-pictured], figure, section');
    const drawing = svg || !scope ? undefined : drawingIn(scope);
    const text = svg ? svg() : drawing && svgOf(drawing);
    if (text === undefined) return;
    savePicture(name.toLowerCase().replaceAll(' ', '-'), kind, text).catch((error: unknown) =>
      report(sentenceOfError(error)),
    );
  };
  return (
    <span className={styles.save}>
      {KINDS.map((kind) => (
        <ButtonBase
          key={kind}
          title={`Save the picture as ${kind.toUpperCase()}`}
          aria-label={`Save ${name} as ${kind.toUpperCase()}`}
          onClick={(event) => save(event, kind)}
        >
          {kind.toUpperCase()}
        </ButtonBase>
      ))}
    </span>
  );
}
