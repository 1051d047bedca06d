'use client';

import Button from '@mui/material/Button';
import { useEffect, useState } from 'react';
import { type RegisterWrite, binary, hex } from '@herzschlag/core';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { saveText } from '../../state/file.ts';
import { core } from '../../worker/core.ts';
import styles from './handoff.module.css';

type Code = { files: { name: string; text: string }[] } | { error: string };

function fieldsText({ fields }: RegisterWrite): string {
  const named = fields.filter(({ field }) => field !== null);
  return named.length === 0
    ? 'whole register'
    : named.map(({ field, value }) => `${field}=${value}`).join('  ');
}

/** All registers of the plan once each, the bits of every signal laid over each other. */
function Registers() {
  const { outcome } = usePlanContext();
  const merged = new Map<string, RegisterWrite>();
  for (const row of outcome?.rows ?? []) {
    for (const write of row.outcome?.registers ?? []) {
      const other = merged.get(write.name);
      if (!other) merged.set(write.name, write);
      else {
        const known = new Set(other.fields.map(({ field }) => field));
        const fields = [...other.fields, ...write.fields.filter(({ field }) => !known.has(field))];
        const value = fields.reduce((sum, one) => sum + one.value * 2 ** one.shift, 0);
        merged.set(write.name, { ...other, fields: fields.sort((one, two) => two.shift - one.shift), value });
      }
    }
  }
  return (
    <table className={styles.registers}>
      <thead>
        <tr className="label">
          <th>Register</th>
          <th>Address</th>
          <th className={styles.right}>Hex</th>
          <th className={styles.right}>Decimal</th>
          <th>Binary</th>
          <th>Bits decided</th>
        </tr>
      </thead>
      <tbody className="mono">
        {[...merged.values()].map((write) => (
          <tr key={write.name}>
            <td>
              <b>{write.name}</b>
            </td>
            <td className="soft">{hex(write.address, 8)}</td>
            <td className={styles.right}>{hex(write.value, write.width)}</td>
            <td className={styles.right}>{write.value}</td>
            <td className={styles.binary}>{binary(write.value, write.width)}</td>
            <td className="soft">{fieldsText(write)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function CodePane({ code }: { code: Code }) {
  const [open, setOpen] = useState(0);
  const [copied, setCopied] = useState<string>();
  if ('error' in code) {
    return (
      <p className={styles.error} role="alert">
        <b>No code while two signals want different values in one register.</b> {code.error}
      </p>
    );
  }
  const file = code.files[open];
  if (!file) return null;
  const copy = () => {
    navigator.clipboard.writeText(file.text).then(
      () => setCopied('copied'),
      () => setCopied('the browser did not allow copying'),
    );
  };
  return (
    <>
      <div className={styles.files} role="tablist" aria-label="Files">
        {code.files.map(({ name }, at) => (
          <button
            key={name}
            type="button"
            role="tab"
            aria-selected={at === open}
            className={`plain mono ${styles.file}`}
            onClick={() => {
              setOpen(at);
              setCopied(undefined);
            }}
          >
            {name}
          </button>
        ))}
        <span className={styles.space} />
        <span className="soft" aria-live="polite">
          {copied}
        </span>
        <Button color="inherit" onClick={copy}>
          Copy
        </Button>
        <Button color="inherit" onClick={() => saveText(file.name, file.text)}>
          Save
        </Button>
      </div>
      <pre className={`mono ${styles.code}`} tabIndex={0} data-testid="code">
        {file.text}
      </pre>
    </>
  );
}

/** The C files with the derivation in their comments, and the registers bit by bit. */
export function HandoffView() {
  const { plan, report } = usePlanContext();
  const [code, setCode] = useState<Code>();

  useEffect(() => {
    let current = true;
    core()
      .code(plan)
      .then((next) => current && setCode(next))
      .catch((error: unknown) => report(String(error)));
    return () => {
      current = false;
    };
  }, [plan, report]);

  if (plan.signals.length === 0) {
    return (
      <div className={styles.empty}>
        <h1 className="serif">Nothing to hand off yet.</h1>
        <p className="soft">Once the plan has a signal, its C files and its registers stand here.</p>
      </div>
    );
  }
  return (
    <div className={styles.handoff}>
      <section aria-label="Code" className={styles.pane}>
        {code && <CodePane code={code} />}
      </section>
      <section aria-label="Registers" className={styles.side}>
        <h2 className="label">Registers</h2>
        <Registers />
      </section>
    </div>
  );
}
