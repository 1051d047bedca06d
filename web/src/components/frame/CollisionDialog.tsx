'use client';

import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import { type Clash, type Plan, type PlanSignal, sentenceText } from '@herzschlag/core';
import { savePlanFile } from '../../state/file.ts';
import type { Collision, OpenPlan } from '../../state/usePlan.ts';
import styles from './frame.module.css';

const SIGNAL = 'signals.';

/** What one version has in a place that both changed: a signal's sentence, or the value as the file has it. */
function valueText(path: string, value: unknown): string {
  if (value === undefined) return 'deleted';
  if (path.startsWith(SIGNAL)) return sentenceText(value as PlanSignal);
  const text = typeof value === 'string' ? value : JSON.stringify(value);
  return text.length > 160 ? `${text.slice(0, 159)}…` : text;
}

function placeText(plan: Plan, path: string): string {
  const id = path.startsWith(SIGNAL) ? path.slice(SIGNAL.length) : undefined;
  return id === undefined ? path : (plan.signals.find((one) => one.id === id)?.name ?? id);
}

/** A row says so where both sentences are alike, since then the settings below them differ. */
function ClashRow({ clash, plan }: { clash: Clash; plan: Plan }) {
  const [mine, theirs] = [valueText(clash.path, clash.mine), valueText(clash.path, clash.theirs)];
  const alike = mine === theirs ? ' (with another setting)' : '';
  return (
    <TableRow>
      <TableCell component="th" scope="row">
        {placeText(plan, clash.path)}
      </TableCell>
      <TableCell>{mine}</TableCell>
      <TableCell>{`${theirs}${alike}`}</TableCell>
    </TableRow>
  );
}

/** Two versions of a plan that differ in the same place, and the choice between them. Neither is lost by any of it. */
export function CollisionDialog({ collision, change }: { collision: Collision; change: OpenPlan['change'] }) {
  const { mine, theirs, clashes, close } = collision;
  return (
    <Dialog
      open
      maxWidth="md"
      aria-labelledby="collision-title"
      slotProps={{ paper: { className: styles.sheet ?? '' } }}
    >
      <div className={styles.collision}>
        <h2 id="collision-title" className="serif">
          Two tabs changed this plan in the same place.
        </h2>
        <p className="soft">
          The other tab’s version is stored. Take this tab’s version, and the other one is one step of undo
          away.
        </p>
        {clashes.length === 0 && (
          <p>Each version is a valid plan; the two together are not, so they cannot be merged.</p>
        )}
        <Table size="small">
          <TableHead>
            <TableRow>
              <TableCell>Place</TableCell>
              <TableCell>This tab</TableCell>
              <TableCell>The other tab</TableCell>
            </TableRow>
          </TableHead>
          <TableBody>
            {clashes.map((clash) => (
              <ClashRow key={clash.path} clash={clash} plan={mine} />
            ))}
          </TableBody>
        </Table>
        <div className={styles.formEnd}>
          <Button
            variant="contained"
            autoFocus
            onClick={() => {
              change(() => mine);
              close();
            }}
          >
            Take this tab’s version
          </Button>
          <Button color="inherit" onClick={close}>
            Keep the other tab’s
          </Button>
          <Button
            color="inherit"
            onClick={() => {
              savePlanFile(mine);
              savePlanFile({ ...theirs, name: `${theirs.name.slice(0, 100)} (other tab)` });
            }}
          >
            Save both as files
          </Button>
        </div>
      </div>
    </Dialog>
  );
}
