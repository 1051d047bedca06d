import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { readPart } from '../../../src/timer/part-file.ts';

const read = readPart(readFileSync(join(__dirname, '../../../../examples/quill8.part.json'), 'utf8'));
if (!read.ok) throw new Error(read.fault.sentence);

/** A made-up part, from its file. */
export const quill8 = read.value;
