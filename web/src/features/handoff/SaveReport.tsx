'use client';

import Button from '@mui/material/Button';
import { type CodeChoices as Choices, planFileName } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { saveBlob, saveText } from '../../state/file.ts';
import { ask } from '../../worker/engine.ts';
import { sentenceOfError } from '../../worker/useEngine.ts';
import styles from './handoff.module.css';

const TYPES = { html: 'text/html', md: 'text/markdown' } as const;

/**
 * Saves the plan for a review: one HTML file that prints, or Markdown; or everything of it as one archive. They are there whatever the
 * checks say.
 */
export function SaveReport({ choices }: { choices: Choices }) {
  const { plan, planId, report } = usePlanContext();
  const save = (kind: keyof typeof TYPES) => {
    const name = planFileName(plan).replace(/\.plan\.json$/, `.report.${kind}`);
    ask((engine, key) => engine.report(key(plan), kind)).then(
      (text) => saveText(name, text, TYPES[kind]),
      (error: unknown) => report(sentenceOfError(error)),
    );
  };
  const saveAll = async (): Promise<void> => {
    const { planBackup } = await import('../../state/backup.ts');
    const backup = await planBackup(planId);
    const bytes = await ask((engine, key) => engine.archive(key(plan), choices, backup));
    const name = planFileName(plan).replace(/\.plan\.json$/, '.zip');
    saveBlob(name, new Blob([bytes as BlobPart], { type: 'application/zip' }));
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
      <Button
        color="inherit"
        className={styles.action}
        title="The plan with its history and capture, its code and its report in one ZIP archive, which opens like a plan"
        onClick={() => {
          saveAll().catch((error: unknown) => report(sentenceOfError(error)));
        }}
      >
        Archive
      </Button>
    </span>
  );
}
