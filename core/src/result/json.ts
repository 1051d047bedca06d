import { parse, visit, type ParseError } from 'jsonc-parser';
import { pathText } from './fault.ts';
import type { Fault, Result } from './result.ts';

/** No plan and no part nests lists and objects deeper than this. */
const DEEPEST = 64;

function linePlace(text: string, offset: number): string {
  const before = text.slice(0, offset);
  const line = before.split('\n').length;
  return `line ${line}, column ${offset - before.lastIndexOf('\n')}`;
}

/** Where a text nests lists and objects too deeply to be a plan or a part; undefined where it does not. */
function tooDeep(text: string): number | undefined {
  let depth = 0;
  let inText = false;
  for (let at = 0; at < text.length; at += 1) {
    const sign = text[at];
    if (inText && sign === '\\') at += 1;
    else if (sign === '"') inText = !inText;
    else if (!inText && (sign === '{' || sign === '[')) depth += 1;
    else if (!inText && (sign === '}' || sign === ']')) depth -= 1;
    if (depth > DEEPEST) return at;
  }
  return undefined;
}

/** Why a text is no JSON, with line and column. */
function syntaxFault(text: string): Fault {
  if (text.trim() === '') return { path: '', sentence: 'The file is empty.' };
  const errors: ParseError[] = [];
  parse(text, errors, { disallowComments: true });
  const [first] = errors;
  const offset = first?.offset ?? text.length;
  const place = linePlace(text, offset);
  if (offset >= text.trimEnd().length) {
    return { path: place, sentence: `The file ends too early, at ${place}: it seems to be cut off.` };
  }
  const found = JSON.stringify(text.slice(offset, offset + 12));
  return { path: place, sentence: `The file is not JSON: ${found} is not expected at ${place}.` };
}

/** A key that stands twice in one object, or that would change what an object is, with its place. */
function keyFault(text: string): Fault | undefined {
  const objects: Set<string>[] = [];
  let found: Fault | undefined;
  visit(text, {
    onObjectBegin: () => {
      objects.push(new Set());
    },
    onObjectEnd: () => {
      objects.pop();
    },
    onObjectProperty: (key, offset, _length, _line, _column, supplyPath) => {
      const own = objects[objects.length - 1];
      if (found || !own) return;
      if (own.has(key) || key === '__proto__') {
        const path = pathText([...supplyPath(), key]);
        const what = own.has(key) ? 'stands twice in one object' : 'is not a key';
        found = { path, sentence: `${path} ${what}, at ${linePlace(text, offset)}.` };
      }
      own.add(key);
    },
  });
  return found;
}

/**
 * The value of a JSON text of limited length and depth whose keys are unique, or the fault that prevents reading it. Never
 * throws.
 */
export function parseJson(raw: string, limit: number, document: 'plan' | 'part'): Result<unknown> {
  if (raw.length > limit) {
    const megabytes = (raw.length / 1e6).toFixed(1);
    const sentence = `The file has ${megabytes} MB; a ${document} has ${limit / 1e6} MB at most, so this is not one.`;
    return { ok: false, fault: { path: '', sentence } };
  }
  const text = raw.replace(/^\uFEFF/, '');
  const deep = tooDeep(text);
  if (deep !== undefined) {
    const path = linePlace(text, deep);
    return { ok: false, fault: { path, sentence: `The file is nested too deeply to be read, at ${path}.` } };
  }
  try {
    const value: unknown = JSON.parse(text);
    const fault = keyFault(text);
    return fault ? { ok: false, fault } : { ok: true, value };
  } catch (error) {
    if (error instanceof SyntaxError) return { ok: false, fault: syntaxFault(text) };
    throw error;
  }
}
