'use client';

import ButtonBase from '@mui/material/ButtonBase';
import type { LineReading, Stretch, WishLine } from '@herzschlag/core';
import { unbroken } from '../text/unbroken.ts';
import styles from './wishes.module.css';

/** The words of a wish: those that were understood with what they were taken for, those that were not marked as such. */
function Marked({ text }: { text: readonly Stretch[] }) {
  return (
    <p className={styles.marked} data-testid="marked">
      {text.map(({ text: words, as, left }, at) =>
        left ? (
          <mark key={at} className={styles.left} title="not understood">
            {words}
            <span className="hidden"> (not understood)</span>
          </mark>
        ) : as === undefined ? (
          words
        ) : (
          <span key={at} className={styles.known} title={as}>
            {words}
          </span>
        ),
      )}
    </p>
  );
}

function Notes({ text, left, cannot, assumed }: LineReading) {
  return (
    <p className={styles.notes}>
      {text.map(
        ({ text: word, readAs }) => readAs && <span key={word}>{`“${word}” read as “${readAs}”`}</span>,
      )}
      {left.length > 0 && <span className={styles.warned}>not understood: {left.join(', ')}</span>}
      {cannot.map((sentence) => (
        <span key={sentence} className={styles.warned}>
          {unbroken(sentence)}
        </span>
      ))}
      {assumed.length > 0 && <span>assumed: {unbroken(assumed.join(', '))}</span>}
    </p>
  );
}

/** What a line of wishes becomes: the signal as a sentence, several to choose from, or the question that is open. */
export function WishLines({
  lines,
  chosen,
  choose,
}: {
  lines: readonly WishLine[];
  chosen: (line: WishLine) => number;
  choose: (line: WishLine, at: number) => void;
}) {
  return (
    <ol className={styles.lines} aria-live="polite" aria-label="What this becomes">
      {lines.map((line) => {
        const reading = line.readings[chosen(line)];
        return (
          <li key={line.line} className={styles.line}>
            {reading ? <Marked text={reading.text} /> : <p className={styles.marked}>{line.text}</p>}
            {line.question !== undefined && <p className={styles.question}>{unbroken(line.question)}</p>}
            {line.readings.length > 1 ? (
              <div className={styles.ways} role="group" aria-label="Two readings">
                {line.readings.map(({ signal, sentence }, at) => (
                  <ButtonBase
                    key={signal.kind}
                    className={styles.way}
                    aria-pressed={at === chosen(line)}
                    onClick={() => choose(line, at)}
                  >
                    {unbroken(sentence)}
                  </ButtonBase>
                ))}
              </div>
            ) : (
              reading && <p className={styles.sentence}>{unbroken(reading.sentence)}</p>
            )}
            {reading && <Notes {...reading} />}
          </li>
        );
      })}
    </ol>
  );
}
