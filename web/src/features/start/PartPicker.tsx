'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Button from '@mui/material/Button';
import { useState } from 'react';
import { answers, type PlanSignal } from '@herzschlag/core';
import { FileButton } from '../../components/frame/FileButton.tsx';
import type { Confirmed, PartFacts } from '../../worker/facts.ts';
import type { PartRow } from '../../state/db.ts';
import { forgetPart, useKeptParts } from '../../state/own-parts.ts';
import { TextBox } from '../../components/fields/TextBox.tsx';
import { useEngine } from '../../worker/useEngine.ts';
import { Panel } from '../../components/frame/Panel.tsx';
import { useTrials, type Trial } from './useTrials.ts';
import styles from './start.module.css';

/** How far a part's register data was compared with an independent source. */
function trustText({ items, confirmed }: Confirmed): string {
  if (confirmed === items) return '✓ verified';
  return confirmed === 0 ? '– from the datasheet only' : '– partly verified';
}

/** How a part does with what it must do. */
function Can({ trial, count }: { trial: Trial; count: number }) {
  if (trial === undefined) return <span className="soft">being tried …</span>;
  if (trial === null) return <span className={styles.cannot}>✗ cannot be tried</span>;
  const left = `${trial.timersLeft} ${trial.timersLeft === 1 ? 'timer' : 'timers'} left`;
  return trial.feasible ? (
    <span className={styles.can}>
      ✓ {count === 1 ? 'does it' : `does all ${count}`}, {left}
    </span>
  ) : (
    <span className={styles.cannot}>✗ {trial.reasons[0] ?? 'No assignment was found.'}</span>
  );
}

/** How far a part's data is confirmed; an empty place until that is known. */
function TrustMark({ confirmed }: { confirmed: Confirmed | undefined }) {
  const whole = confirmed !== undefined && confirmed.confirmed === confirmed.items;
  return <span className={whole ? styles.verified : styles.partly}>{confirmed && trustText(confirmed)}</span>;
}

/** Whether a text has all words of a question. */
function answersInWords(text: string, query: string): boolean {
  const words = query.toLowerCase().split(/\s+/).filter(Boolean);
  return words.every((word) => text.toLowerCase().includes(word));
}

/** A part that was loaded from a file before. */
function KeptPart({
  part,
  take,
  report,
}: {
  part: PartRow;
  take: (part: PartRow) => void;
  report: (sentence: string) => void;
}) {
  const forget = () => {
    forgetPart(part.id).catch((error: unknown) =>
      report(`It cannot be taken from the list: ${String(error)}`),
    );
  };
  return (
    <li className={styles.kept}>
      <ButtonBase data-part={part.id} onClick={() => take(part)}>
        <b className="serif">{part.name}</b>
        <span className={styles.partly}>from a file</span>
        <span className="soft">{part.about}</span>
      </ButtonBase>
      <Button size="small" color="inherit" aria-label={`Take ${part.name} from the list`} onClick={forget}>
        remove
      </Button>
    </li>
  );
}

/** A button that lets a person choose a part, by name or by what it must be able to do. */
export function PartPicker({
  take,
  takeFile,
  takeKept,
  report,
}: {
  take: (part: PartFacts, signals?: readonly PlanSignal[], trial?: Trial) => void;
  takeFile: (file: File) => void;
  takeKept: (part: PartRow) => void;
  report: (sentence: string) => void;
}) {
  const [anchor, setAnchor] = useState<HTMLElement>();
  const [query, setQuery] = useState('');
  const { value: parts } = useEngine(['parts'], (engine) => engine.parts(), {
    enabled: anchor !== undefined,
    report,
  });
  const { value: confirmed } = useEngine(['confirmed'], (engine) => engine.confirmed(), {
    enabled: anchor !== undefined,
    report,
  });
  const kept = useKeptParts(report);
  const asked = query.trim();
  const { value: needs, current } = useEngine(['needs', asked], (engine) => engine.needs(asked), {
    enabled: asked !== '',
    report,
  });
  const wanted = current ? needs : undefined;
  const trials = useTrials(parts, wanted, report);
  const named = parts?.filter((part) => answers(part, query)) ?? [];
  // Where the text says what a part must do, all parts are tried, and those that can come first.
  const rank = ({ id }: PartFacts): number => (trials[id]?.feasible ? 0 : trials[id] ? 2 : 1);
  const found =
    wanted && named.length === 0 ? [...(parts ?? [])].sort((one, other) => rank(one) - rank(other)) : named;

  const open = (button: HTMLElement) => {
    setAnchor(button);
    setQuery('');
  };

  return (
    <>
      <Button variant="contained" onClick={(event) => open(event.currentTarget)}>
        New plan
      </Button>
      <Panel button={anchor} name="Parts" close={() => setAnchor(undefined)} side="right">
        <form
          className={styles.picker}
          onSubmit={(event) => {
            event.preventDefault();
            const [first] = found;
            if (first) take(first, wanted, trials[first.id]);
          }}
        >
          <TextBox
            autoFocus
            className={styles.query ?? ''}
            label="Part, or what it must be able to do"
            placeholder="a name, or: 32-bit timer, 16 channels, or: four servos and a tone"
            value={query}
            onChange={(event) => setQuery(event.target.value)}
          />
          <ul className={styles.parts}>
            {wanted === undefined &&
              kept
                .filter(({ name, about }) => answersInWords(`${name} ${about}`, query))
                .map((part) => <KeptPart key={part.id} part={part} take={takeKept} report={report} />)}
            {found.map((part) => (
              <li key={part.id}>
                <ButtonBase data-part={part.id} onClick={() => take(part, wanted, trials[part.id])}>
                  <b className="serif">{part.name}</b>
                  <TrustMark confirmed={confirmed?.[part.id]} />
                  <span className="soft">{part.about}</span>
                  {wanted && <Can trial={trials[part.id]} count={wanted.length} />}
                  {part.leftOut.length > 0 && (
                    <span className={styles.leftOut}>not covered: {part.leftOut.join('; ')}</span>
                  )}
                </ButtonBase>
              </li>
            ))}
            {parts && found.length === 0 && <li className="soft">No part has all of that.</li>}
          </ul>
          <div className={styles.own}>
            <FileButton
              color="inherit"
              accept=".json,application/json"
              name="Part file"
              take={(file) => {
                setAnchor(undefined);
                takeFile(file);
              }}
            >
              Load a part file…
            </FileButton>
            <span className="soft">for a chip that is not in the list</span>
          </div>
        </form>
      </Panel>
    </>
  );
}
