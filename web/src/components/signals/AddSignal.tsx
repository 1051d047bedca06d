'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { allKinds, freeId, freeName, type Kind, type PlanSignal, withoutSignal } from '@herzschlag/core';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import { usePlanContext } from '../frame/PlanContext.ts';
import styles from './signals.module.css';

/** Adds a signal from a starting point; its sentence is edited from there. Also deletes the one that is shown. */
export function AddSignal({ wide = false }: { wide?: boolean }) {
  const { plan, signal: open, change, showSignal, report } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();

  const add = (kind: Kind) => {
    setAnchor(undefined);
    const names = plan.signals.map((one) => one.name);
    const id = freeId(plan, kind.name);
    const signal = {
      id,
      name: freeName(kind.name, names),
      kind: kind.id,
      target: kind.starter.target,
    } as PlanSignal;
    ask((engine, key) => engine.begin(key(plan), signal))
      .then((begun) => {
        change((now) => ({ ...now, signals: [...now.signals, begun] }));
        showSignal(id);
      })
      .catch((error: unknown) => report(sentenceOfError(error)));
  };

  const remove = () => {
    setAnchor(undefined);
    change((now) => withoutSignal(now, open?.id));
  };

  return (
    <>
      {wide ? (
        <Button variant="contained" onClick={(event) => setAnchor(event.currentTarget)}>
          Add a signal
        </Button>
      ) : (
        <ButtonBase
          className={styles.add}
          aria-haspopup="menu"
          onClick={(event) => setAnchor(event.currentTarget)}
        >
          + signal
        </ButtonBase>
      )}
      <Menu
        open={anchor !== undefined}
        anchorEl={anchor ?? null}
        onClose={() => setAnchor(undefined)}
        slotProps={{
          paper: { role: 'region', 'aria-label': 'Kinds of signal' },
          list: { 'aria-label': 'Kinds of signal' },
        }}
      >
        {allKinds().map((kind) => (
          <MenuItem key={kind.id} onClick={() => add(kind)}>
            {kind.starter.text}
          </MenuItem>
        ))}
        {open && !wide && (
          <MenuItem onClick={remove} sx={{ borderTop: '1px solid var(--hair)' }}>
            delete {open.name}
          </MenuItem>
        )}
      </Menu>
    </>
  );
}
