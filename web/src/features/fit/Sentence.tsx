'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState, type KeyboardEvent } from 'react';
import {
  kindOf,
  type Piece,
  type PlanSignal,
  editToken,
  pinName,
  sentenceOf,
  tokenSeen,
  withPin,
} from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { TimingFields } from './TimingFields.tsx';
import type { SignalEditor } from './useSignalView.ts';
import styles from './fit.module.css';

type TokenPiece = Extract<Piece, { token: unknown }>;
/** Sentences of more characters are set smaller, so that they keep to one line where they can. */
const LONG = 84;

type Hint = { text: string; fault: boolean };

function sayAlso(signal: PlanSignal, token: string): string {
  const piece = sentenceOf(signal).find((one) => 'token' in one && one.token === token);
  return piece && 'also' in piece ? piece.also : '';
}

function NameToken({ piece, editor }: { piece: TokenPiece; editor: SignalEditor }) {
  const { change } = usePlanContext();
  const [draft, setDraft] = useState<string>();
  const settle = () => {
    const name = draft?.trim().slice(0, 80);
    setDraft(undefined);
    if (!name || name === editor.signal.name) return;
    const renamed = (one: PlanSignal): PlanSignal => (one.id === editor.signal.id ? { ...one, name } : one);
    change((now) => ({ ...now, signals: now.signals.map(renamed) }));
  };
  return (
    <span className={`${styles.token} ${styles.quiet}`} data-text={draft ?? piece.text}>
      <input
        aria-label={piece.label}
        maxLength={80}
        size={1}
        value={draft ?? piece.text}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={settle}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
          if (event.key === 'Escape') setDraft(undefined);
        }}
      />
    </span>
  );
}

function PinToken({
  piece,
  editor,
  hint,
}: {
  piece: TokenPiece;
  editor: SignalEditor;
  hint: (hint?: Hint) => void;
}) {
  const { part, plan } = usePlanContext();
  const [anchor, setAnchor] = useState<HTMLElement>();
  const plainPins = part.softwarePins.filter((pin) => !part.timerPins.includes(pin));
  const users = new Map(
    plan.signals
      .filter((one) => one.id !== editor.signal.id)
      .map((one) => [one.setting?.pin ?? one.pin, one.name]),
  );
  const take = (pin: string | undefined) => {
    setAnchor(undefined);
    editor.retarget(withPin(editor.signal, pin));
  };
  return (
    <span className={styles.token} data-text={piece.text}>
      <ButtonBase
        aria-label={`${piece.label}: ${piece.text}`}
        aria-haspopup="menu"
        onFocus={() => hint({ text: piece.also, fault: false })}
        onBlur={() => hint()}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        {piece.text}
      </ButtonBase>
      <Menu
        open={anchor !== undefined}
        anchorEl={anchor ?? null}
        onClose={() => setAnchor(undefined)}
        slotProps={{ paper: { role: 'region', 'aria-label': 'Pins' }, list: { 'aria-label': 'Pins' } }}
      >
        <MenuItem selected={editor.signal.pin === undefined} onClick={() => take(undefined)}>
          any pin
        </MenuItem>
        {(kindOf(editor.signal).on === 'input' ? part.capturePins : [...part.timerPins, ...plainPins]).map(
          (pin) => (
            <MenuItem key={pin} selected={editor.signal.pin === pin} onClick={() => take(pin)}>
              <span className="mono">{pinName(plan, pin)}</span>
              <span className="soft">
                &nbsp;
                {users.has(pin)
                  ? `used by ${users.get(pin)}`
                  : kindOf(editor.signal).on !== 'input' && plainPins.includes(pin)
                    ? 'by software only'
                    : ''}
              </span>
            </MenuItem>
          ),
        )}
      </Menu>
    </span>
  );
}

function QuantityField({
  piece,
  editor,
  hint,
}: {
  piece: TokenPiece;
  editor: SignalEditor;
  hint: (hint?: Hint) => void;
}) {
  const [draft, setDraft] = useState<string>();
  const { token } = piece;
  const { outcome } = editor;
  const set =
    outcome &&
    (piece.stepped === 'frequency'
      ? outcome.frequencyHz
      : token === 'duty'
        ? outcome.duty
        : outcome.duty / outcome.frequencyHz);
  const seen = set === undefined ? undefined : tokenSeen(editor.signal, token, set);
  const also = seen === undefined ? piece.also : `${piece.also} = ${seen} by the readings`;
  const changed = draft !== undefined && draft.trim() !== piece.text;

  const read = (text: string): { signal?: PlanSignal; hint: Hint } => {
    const counts = outcome ? { countS: outcome.wave.countS, dutyCounts: outcome.steps } : {};
    const edit = editToken(editor.signal, token, text, counts);
    if (!edit.ok) return { hint: { text: edit.fault.sentence, fault: true } };
    const signal = edit.value as PlanSignal;
    try {
      return { signal, hint: { text: sayAlso(signal, token), fault: false } };
    } catch (error) {
      return { hint: { text: error instanceof Error ? error.message : String(error), fault: true } };
    }
  };

  const settle = (): boolean => {
    if (!changed) {
      setDraft(undefined);
      return true;
    }
    const result = read(draft);
    hint(result.hint);
    if (!result.signal) return false;
    const typed = draft;
    setDraft(undefined);
    editor.retarget(result.signal, (fault) => {
      setDraft(typed);
      hint({ text: fault.plain ?? fault.sentence, fault: true });
    });
    return true;
  };

  const press = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === 'Enter') {
      event.preventDefault();
      settle();
    }
    if (event.key === 'Escape') {
      setDraft(undefined);
      hint({ text: also, fault: false });
    }
    const by = event.key === 'ArrowUp' ? 1 : event.key === 'ArrowDown' ? -1 : 0;
    const { stepped } = piece;
    if (by !== 0 && stepped) {
      event.preventDefault();
      setDraft(undefined);
      editor.step(stepped, by * (event.shiftKey ? 10 : 1));
    }
  };

  return (
    <span className={styles.token} data-text={draft ?? piece.text}>
      <input
        aria-label={piece.label}
        aria-invalid={changed && !read(draft).signal}
        data-token={token}
        maxLength={200}
        size={1}
        spellCheck={false}
        autoComplete="off"
        value={draft ?? piece.text}
        onFocus={(event) => {
          event.currentTarget.select();
          hint({ text: also, fault: false });
        }}
        onChange={(event) => {
          setDraft(event.target.value);
          hint(read(event.target.value).hint);
        }}
        onBlur={() => {
          if (!settle()) return;
          hint();
        }}
        onKeyDown={press}
      />
    </span>
  );
}

/** The target as a sentence whose tokens are fields; the line below says the same thing in other units, or what is wrong. */
export function Sentence({ editor }: { editor: SignalEditor }) {
  const [hint, setHint] = useState<Hint>();
  const { plan } = usePlanContext();
  const pieces = sentenceOf(editor.signal, (pin) => pinName(plan, pin));
  const standing = pieces.flatMap((piece) =>
    'token' in piece && piece.dimension !== 'name' && piece.dimension !== 'pin' && piece.token !== 'minSteps'
      ? [piece.also]
      : [],
  );
  const length = pieces.reduce((sum, piece) => sum + piece.text.length, 0);
  const shown = hint ?? { text: standing.slice(0, 2).join(' · '), fault: false };
  return (
    <div>
      <h1 className={styles.sentence} data-long={length > LONG}>
        {pieces.map((piece) => {
          if (!('token' in piece)) return piece.text;
          if (piece.token === 'name') return <NameToken key="name" piece={piece} editor={editor} />;
          if (piece.token === 'pin')
            return <PinToken key="pin" piece={piece} editor={editor} hint={setHint} />;
          return <QuantityField key={piece.token} piece={piece} editor={editor} hint={setHint} />;
        })}
      </h1>
      <p className={styles.hint} data-fault={shown.fault} aria-live="polite" data-testid="hint">
        {shown.text}
        {!shown.fault &&
          kindOf(editor.signal).on !== 'input' &&
          !hint &&
          ' · arrow keys step through the values the hardware can make'}
      </p>
      {kindOf(editor.signal).on === 'output' && (
        <TimingFields
          editor={editor}
          hint={(text, fault = false) => setHint(text === undefined ? undefined : { text, fault })}
        />
      )}
    </div>
  );
}
