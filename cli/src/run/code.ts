import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { CodeError, fetchTrust, noStartUpCode, planCode } from '@herzschlag/core';
import { fileError, writeWhole } from '../files.ts';
import { loadPlan } from '../plan.ts';
import { UsageError } from '../usage-error.ts';
import { json } from '../table.ts';

/** What the command line says of the code. */
export type CodeOptions = {
  allowInterrupts?: boolean;
  deviceHeader?: boolean;
  startUp?: boolean;
  main?: boolean;
};

/**
 * Writes the plan's C files into a directory and names them, with what they leave out of the plan. What is not said is as the plan has it.
 * @throws UsageError when the plan is no program.
 */
export async function codeCommand(file: string, out: string, said: CodeOptions = {}): Promise<string> {
  const { plan, part } = await loadPlan(file);
  const deviceHeader =
    said.deviceHeader ?? (plan.code?.registers === 'device' && part.code.device !== undefined);
  const allowInterrupts = said.allowInterrupts ?? plan.code?.allowInterrupts === true;
  const startUp = said.startUp ?? (plan.code?.startUp === true && noStartUpCode(part) === undefined);
  if (deviceHeader && !part.code.device) {
    throw new UsageError(
      part.code.registers === 'names'
        ? `${part.name}: its code always uses the names of its headers.`
        : `${part.name}: its data names no header of the device; its code defines registers by address.`,
    );
  }
  const refusal = startUp ? noStartUpCode(part) : undefined;
  if (refusal !== undefined) throw new UsageError(refusal);
  const { unverified } = await fetchTrust(part);
  const registers = deviceHeader ? 'device' : 'own';
  let code;
  try {
    code = planCode(plan, part, {
      ...{ allowInterrupts, startUp, registers, unverified },
      ...(said.main === true ? { main: true } : {}),
    });
  } catch (error) {
    if (error instanceof CodeError) throw new UsageError(`${file}: ${error.message}`);
    throw error;
  }
  try {
    await mkdir(out, { recursive: true });
  } catch (error) {
    throw fileError(out, error);
  }
  for (const { name, text } of code.files) await writeWhole(join(out, name), text);
  return json({ files: code.files.map(({ name }) => join(out, name)), leftOut: code.leftOut });
}
