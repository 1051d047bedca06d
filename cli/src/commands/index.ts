import type { CommandRecord } from '../command.ts';
import { archive } from './archive.ts';
import { assign } from './assign.ts';
import { check } from './check.ts';
import { code } from './code.ts';
import { compare } from './compare.ts';
import { decode } from './decode.ts';
import { diff } from './diff.ts';
import { fit } from './fit.ts';
import { interrupts } from './interrupts.ts';
import { lengths } from './lengths.ts';
import { load } from './load.ts';
import { part } from './part.ts';
import { parts } from './parts.ts';
import { report } from './report.ts';
import { say } from './say.ts';
import { shareTick } from './share-tick.ts';
import { trace } from './trace.ts';

/** Every command of `hz`, in the order the help lists them. */
export const COMMANDS: readonly CommandRecord[] = [
  parts,
  part,
  fit,
  check,
  assign,
  compare,
  diff,
  trace,
  interrupts,
  load,
  lengths,
  code,
  decode,
  report,
  archive,
  shareTick,
  say,
];
