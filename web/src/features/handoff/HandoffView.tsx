'use client';

import Table from '@mui/material/Table';
import TableHead from '@mui/material/TableHead';
import TableBody from '@mui/material/TableBody';
import TableRow from '@mui/material/TableRow';
import TableCell from '@mui/material/TableCell';
import Button from '@mui/material/Button';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import { useState, type ReactNode } from 'react';
import {
  binary,
  failed,
  hex,
  type PlanCode,
  type PlanCodeOptions,
  type RegisterWrite,
  type Result,
} from '@herzschlag/core';
import { ChoiceBox } from '../../components/fields/ChoiceBox.tsx';
import { usePlanContext } from '../../components/frame/PlanContext.ts';
import { saveText } from '../../state/file.ts';
import { useEngine } from '../../worker/useEngine.ts';
import { AddSignal } from '../../components/signals/AddSignal.tsx';
import { SaveReport } from './SaveReport.tsx';
import styles from './handoff.module.css';

function fieldsText({ fields }: RegisterWrite): string {
  const named = fields.filter(({ field }) => field !== null);
  return named.length === 0
    ? 'whole register'
    : named.map(({ field, value }) => `${field}=${value}`).join('  ');
}

/** All registers of the plan once each, with the bits that its settings decide. */
function Registers() {
  const { evaluation } = usePlanContext();
  if (evaluation.conflicts.length > 0)
    return <p className="soft">Registers are listed once no two signals are in conflict.</p>;
  return (
    <Table className={styles.registers}>
      <TableHead>
        <TableRow className="label">
          <TableCell component="th">Register</TableCell>
          <TableCell component="th">Address</TableCell>
          <TableCell component="th" className={styles.right}>
            Hex
          </TableCell>
          <TableCell component="th" className={`${styles.right} ${styles.decimal}`}>
            Decimal
          </TableCell>
          <TableCell component="th">Binary</TableCell>
          <TableCell component="th">Fields</TableCell>
        </TableRow>
      </TableHead>
      <TableBody className="mono">
        {evaluation.registers.map((write) => (
          <TableRow key={write.name}>
            <TableCell component="td">
              <b>{write.name}</b>
            </TableCell>
            <TableCell component="td" className="soft">
              {hex(write.address, 8)}
            </TableCell>
            <TableCell component="td" className={styles.right}>
              {hex(write.value, write.width)}
            </TableCell>
            <TableCell component="td" className={`${styles.right} ${styles.decimal}`}>
              {write.value}
            </TableCell>
            <TableCell component="td" className={styles.binary}>
              {binary(write.value, write.width)}
            </TableCell>
            <TableCell component="td" className="soft">
              {fieldsText(write)}
            </TableCell>
          </TableRow>
        ))}
      </TableBody>
    </Table>
  );
}

/** The id of the panel that the chosen file's tab shows. */
const PANEL_ID = 'code-panel';

/** What a part's code can be asked for. */
function CodeChoices({
  choices,
  choose,
}: {
  choices: PlanCodeOptions;
  choose: (choices: PlanCodeOptions) => void;
}) {
  const { part } = usePlanContext();
  const { registers = 'own', startUp = false, allowInterrupts = false } = choices;
  return (
    <div className={styles.choices} role="group" aria-label="Choices for the code">
      {part.deviceHeader && (
        <Choice label="Registers">
          <ChoiceBox
            label="Names of registers"
            value={registers}
            take={(value) => choose({ ...choices, registers: value === 'device' ? 'device' : 'own' })}
          >
            <option value="own">by address</option>
            <option value="device">device header</option>
          </ChoiceBox>
        </Choice>
      )}
      {part.startUpCode && (
        <Choice label="Start-up">
          <ChoiceBox
            label="Start-up"
            value={startUp ? 'code' : 'elsewhere'}
            take={(value) => choose({ ...choices, startUp: value === 'code' })}
          >
            <option value="elsewhere">elsewhere</option>
            <option value="code">in this code</option>
          </ChoiceBox>
        </Choice>
      )}
      <Choice label="Interrupts">
        <ChoiceBox
          label="Interrupts"
          value={allowInterrupts ? 'start' : 'program'}
          take={(value) => choose({ ...choices, allowInterrupts: value === 'start' })}
        >
          <option value="program">main enables</option>
          <option value="start">start enables</option>
        </ChoiceBox>
      </Choice>
    </div>
  );
}

function Choice({ label, children }: { label: string; children: ReactNode }) {
  return (
    <span className={styles.choice}>
      <span aria-hidden="true">{label}</span>
      {children}
    </span>
  );
}

function CodePane({ code, choices }: { code: Result<PlanCode>; choices: ReactNode }) {
  const [open, setOpen] = useState(0);
  const [copied, setCopied] = useState<string>();
  if (!code.ok) {
    return (
      <p className={styles.error} role="alert">
        <b>No code can be generated.</b> {code.fault.sentence}
      </p>
    );
  }
  const { files, leftOut } = code.value;
  const file = files[open] ?? files[0];
  if (!file) return null;
  const copy = () => {
    navigator.clipboard.writeText(file.text).then(
      () => setCopied('copied'),
      () => setCopied('the browser did not allow copying'),
    );
  };
  return (
    <>
      <div className={styles.files}>
        <Tabs
          variant="scrollable"
          scrollButtons="auto"
          value={file.name}
          aria-label="Files"
          selectionFollowsFocus
          onChange={(_, name: string) => {
            setOpen(files.findIndex((one) => one.name === name));
            setCopied(undefined);
          }}
        >
          {files.map(({ name }) => (
            <Tab
              key={name}
              value={name}
              id={`file-${name}`}
              aria-controls={PANEL_ID}
              label={<span className="mono">{name}</span>}
            />
          ))}
        </Tabs>
        <span className={styles.space} />
        <span className="soft" aria-live="polite">
          {copied}
        </span>
        <Button color="inherit" className={styles.action} onClick={copy}>
          Copy
        </Button>
        <Button color="inherit" className={styles.action} onClick={() => saveText(file.name, file.text)}>
          Save
        </Button>
      </div>
      {choices}
      {leftOut.length > 0 && (
        <section className={styles.leftOut} aria-label="Not in this code" data-testid="left-out">
          <b>Not in this code:</b>
          <ul>
            {leftOut.map((sentence) => (
              <li key={sentence}>{sentence}</li>
            ))}
          </ul>
        </section>
      )}
      <pre
        className={`mono ${styles.code}`}
        role="tabpanel"
        id={PANEL_ID}
        aria-labelledby={`file-${file.name}`}
        tabIndex={0}
        data-testid="code"
      >
        {file.text}
      </pre>
    </>
  );
}

/** The C files with the derivation in their comments, and the registers bit by bit. */
export function HandoffView() {
  const { plan, part } = usePlanContext();
  const [chosen, setChosen] = useState<PlanCodeOptions>({});
  // A choice stays when the plan goes to a part that has none of it.
  const options = {
    registers: part.deviceHeader ? (chosen.registers ?? 'own') : 'own',
    startUp: part.startUpCode && chosen.startUp === true,
    allowInterrupts: chosen.allowInterrupts === true,
  } as const;
  const { value: code, fault } = useEngine(
    ['code', plan, options],
    (engine, key) => engine.code(key(plan), options),
    { keep: true },
  );
  const choices = <CodeChoices choices={options} choose={setChosen} />;

  if (plan.signals.length === 0) {
    return (
      <div className={styles.empty}>
        <h1 className="serif">Nothing to hand off yet.</h1>
        <p className="soft">
          Once the plan has a signal, its C files and its registers are shown here. Begin with what a pin
          should do.
        </p>
        <AddSignal wide />
      </div>
    );
  }
  return (
    <div className={styles.handoff}>
      <h1 className="hidden">Hand-off of {plan.name}</h1>
      <section aria-label="Code" className={styles.pane}>
        {fault === undefined ? (
          code && <CodePane code={code} choices={choices} />
        ) : (
          <CodePane code={failed(fault)} choices={choices} />
        )}
      </section>
      <section aria-label="Registers" className={styles.side}>
        <div className={styles.head}>
          <h2 className="label">Registers</h2>
          <SaveReport />
        </div>
        <Registers />
      </section>
    </div>
  );
}
