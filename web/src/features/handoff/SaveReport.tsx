'use client';

import Button from '@mui/material/Button';
import { planFileName } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { saveText } from '../../state/file.ts';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import styles from './handoff.module.css';

const TYPES = { html: 'text/html', md: 'text/markdown' } as const;

/** Saves the plan for a review: one HTML file that prints, or Markdown. It is there whatever the checks say. */
export function SaveReport() {
  const { plan, report } = usePlanContext();
  const save = (kind: keyof typeof TYPES) => {
    const name = planFileName(plan).replace(/\.plan\.json$/, `.report.${kind}`);
    ask((engine, key) => engine.report(key(plan), kind)).then(
      (text) => saveText(name, text, TYPES[kind]),
      (error: unknown) => report(sentenceOfError(error)),
    );
  };
  return (
    <span className={styles.report}>
      <span className="soft">Report</span>
      <Button color="inherit" className={styles.action} onClick={() => save('html')}>
        HTML
      </Button>
      <Button color="inherit" className={styles.action} onClick={() => save('md')}>
        Markdown
      </Button>
    </span>
  );
}
