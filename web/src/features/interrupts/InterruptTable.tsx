'use client';

import ButtonBase from '@mui/material/ButtonBase';
import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import {
  arrivalsText,
  cyclesText,
  failed,
  type InterruptReport,
  type InterruptRow,
  parseArrivals,
  parseCycles,
  type Plan,
  type PlanTask,
  printHz,
  printPercent,
  printSeconds,
  succeeded,
} from '@herzschlag/core';
import { VerdictSign } from '../../components/verdict/VerdictSign.tsx';
import { EditCell } from './EditCell.tsx';
import { withCycles, withoutTask, withPriority, withTaskFacts } from './edits.ts';
import styles from './interrupts.module.css';
import { rowColour } from './rows.ts';

/** What a row of the table can ask of the view. */
export type TableActions = {
  change: (edit: (plan: Plan) => Plan) => void;
  /** Shows a plan while something is dragged; undefined ends that. */
  preview: (edit: ((plan: Plan) => Plan) | undefined) => void;
  select: (at: number) => void;
  show: (atS: number) => void;
  hint: (sentence: string | undefined) => void;
};

function readName(text: string) {
  const name = text.trim();
  return name === '' || name.length > 80 ? failed('A name has 1 to 80 characters.') : succeeded(name);
}

/** Reads a priority, 0 being the most urgent. */
function priorityReader(levels: number) {
  return (text: string) => {
    const value = /^\d{1,3}$/.test(text.trim()) ? Number(text) : NaN;
    return value < levels
      ? succeeded(value)
      : failed(`A priority is a whole number from 0, the most urgent, to ${levels - 1}.`);
  };
}

function When({
  row,
  task,
  actions,
}: {
  row: InterruptRow;
  task: PlanTask | undefined;
  actions: TableActions;
}) {
  if (!task) return <>{row.rateHz === undefined ? '' : printHz(row.rateHz)}</>;
  return (
    <EditCell
      label={`When ${row.name} comes`}
      text={arrivalsText(task.arrives)}
      read={parseArrivals}
      hint={actions.hint}
      take={(arrives) => actions.change((plan) => withTaskFacts(plan, task.id, { arrives }))}
    />
  );
}

/** The least slack of a row: what is left until its deadline in the worst case. */
function slackText({ deadline }: InterruptRow): string {
  if (!deadline) return '';
  return deadline.valueS === undefined ? 'none' : printSeconds(deadline.limitS - deadline.valueS, 4);
}

function Row({
  row,
  at,
  selected,
  task,
  levels,
  order,
  actions,
}: {
  row: InterruptRow;
  at: number;
  selected: boolean;
  task: PlanTask | undefined;
  levels: number;
  order: readonly string[];
  actions: TableActions;
}) {
  const { wait, deadline } = row;
  const worstAt = deadline?.atS ?? row.worstAtS;
  return (
    <TableRow data-interrupt={row.id} data-selected={selected} onClick={() => actions.select(at)}>
      <TableCell component="th" scope="row" className={styles.who}>
        <i className={styles.mark} style={{ background: rowColour(row, order) }} />
        {task ? (
          <EditCell
            label={`Name of ${row.name}`}
            text={task.name}
            read={readName}
            hint={actions.hint}
            take={(name) => actions.change((plan) => withTaskFacts(plan, task.id, { name }))}
          />
        ) : (
          <span>{row.name}</span>
        )}
      </TableCell>
      <TableCell className={styles.when}>
        <When row={row} task={task} actions={actions} />
      </TableCell>
      <TableCell className={styles.right}>
        <EditCell
          label={`Cycles of ${row.name}`}
          text={`${cyclesText(row.cycles)}${row.estimated ? ' est.' : ''}`}
          read={(text) => parseCycles(text.replace(/ est\.$/, ''))}
          hint={actions.hint}
          take={(cycles) => actions.change((plan) => withCycles(plan, row, cycles))}
          preview={(cycles) =>
            actions.preview(cycles === undefined ? undefined : (plan) => withCycles(plan, row, cycles))
          }
          number={{
            value: row.cycles.max,
            of: (max) =>
              row.cycles.min === row.cycles.max ? max : { min: Math.min(row.cycles.min, max), max },
          }}
        />
      </TableCell>
      {levels > 1 && (
        <TableCell className={styles.right}>
          <EditCell
            label={`Priority of ${row.name}`}
            text={String(row.priority)}
            read={priorityReader(levels)}
            hint={actions.hint}
            take={(priority) => actions.change((plan) => withPriority(plan, row, priority))}
            number={{ value: row.priority, of: (value) => Math.min(levels - 1, value) }}
          />
        </TableCell>
      )}
      <TableCell className={styles.right}>
        <ButtonBase
          className={styles.link}
          title="Show that moment"
          onClick={() => {
            actions.select(at);
            actions.show(worstAt);
          }}
        >
          {printSeconds(wait.worstS, 4)}
        </ButtonBase>
      </TableCell>
      <TableCell className={styles.right}>
        {wait.boundS === undefined ? 'none' : printSeconds(wait.boundS, 4)}
      </TableCell>
      <TableCell className={styles.right}>{slackText(row)}</TableCell>
      <TableCell className={styles.right}>{printPercent(row.share, 3)}</TableCell>
      <TableCell className={styles.right} data-fails={row.lost > 0}>
        {row.lost}
      </TableCell>
      <TableCell className={styles.sign}>{deadline && <VerdictSign verdict={deadline.verdict} />}</TableCell>
      <TableCell className={styles.end}>
        {task && (
          <ButtonBase
            className={styles.remove}
            aria-label={`Remove ${row.name}`}
            onClick={() => actions.change((plan) => withoutTask(plan, task.id))}
          >
            ×
          </ButtonBase>
        )}
      </TableCell>
    </TableRow>
  );
}

/** The interrupts of a plan in a table: what each asks for, what it met, and what is certain. */
export function InterruptTable({
  report,
  plan,
  levels,
  selected,
  actions,
}: {
  report: InterruptReport;
  plan: Plan;
  levels: number;
  selected: number;
  actions: TableActions;
}) {
  const order = plan.signals.map(({ id }) => id);
  return (
    <Table className={styles.table}>
      <TableHead>
        <TableRow className="label">
          <TableCell component="th">Interrupt</TableCell>
          <TableCell component="th" className={styles.when}>
            Comes
          </TableCell>
          <TableCell component="th" className={styles.right}>
            Cycles
          </TableCell>
          {levels > 1 && (
            <TableCell component="th" className={styles.right}>
              Priority
            </TableCell>
          )}
          <TableCell component="th" className={styles.right}>
            Worst wait
          </TableCell>
          <TableCell component="th" className={styles.right}>
            Bound
          </TableCell>
          <TableCell component="th" className={styles.right}>
            Slack
          </TableCell>
          <TableCell component="th" className={styles.right}>
            CPU
          </TableCell>
          <TableCell component="th" className={styles.right}>
            Lost
          </TableCell>
          <TableCell component="th">
            <span className={styles.hidden}>Verdict</span>
          </TableCell>
          <TableCell component="th">
            <span className={styles.hidden}>Remove</span>
          </TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {report.rows.map((row, at) => (
          <Row
            key={row.id}
            row={row}
            at={at}
            selected={at === selected}
            task={plan.cpu?.tasks?.find(({ id }) => id === row.task)}
            levels={levels}
            order={order}
            actions={actions}
          />
        ))}
      </TableBody>
    </Table>
  );
}
