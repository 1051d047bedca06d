import { parser } from '@lezer/cpp';
import type { SyntaxNode } from '@lezer/common';

/** A statement that may write something, with the line it begins in. */
export type Simple = { do: 'simple'; text: string; line: number };

/** What a function does, in order: statements, and others inside of loops and conditions. */
export type Step =
  | Simple
  | { do: 'loop'; line: number; steps: Step[] }
  | { do: 'choice'; line: number; condition: string; then: Step[]; otherwise: Step[] };

/** A function of a program; a handler is one that interrupts call. */
export type FunctionText = {
  name: string;
  line: number;
  parameters: string[];
  /** The vector of a handler, as far as its head names it. */
  handler?: string;
  steps: Step[];
};

/** A "#define": its parameters, where it has some, and its text. */
type Define = { parameters?: string[]; text: string };

/** A text of C taken apart; what is not C in it is left out, and its statements are not lost. */
export type ProgramText = {
  defines: ReadonlyMap<string, Define>;
  enums: ReadonlyMap<string, string>;
  functions: readonly FunctionText[];
  /** Statements outside of any function, as in a few pasted lines. */
  loose: readonly Step[];
  /** The text without comments. */
  plain: string;
  /** Lines that hold anything but comments. */
  lines: number;
};

/** Longer lines are no code that a person wrote, and are left out. */
const LONGEST_LINE = 5_000;

/** Statements nested more deeply are left out. */
const DEEPEST = 60;

type Reading = {
  text: string;
  lineAt: (at: number) => number;
  defines: Map<string, Define>;
  enums: Map<string, string>;
};

function slice({ text }: Reading, node: SyntaxNode): string {
  return text.slice(node.from, node.to);
}

function childrenOf(node: SyntaxNode): SyntaxNode[] {
  const found: SyntaxNode[] = [];
  for (let child = node.firstChild; child; child = child.nextSibling) found.push(child);
  return found;
}

/** The text without its comments and without lines that are too long for code written by hand; every line stays where it is. */
function withoutComments(text: string): string {
  const pieces: string[] = [];
  for (let at = 0; at < text.length;) {
    const block = text.startsWith('/*', at);
    if (!block && !text.startsWith('//', at)) {
      const next = text.indexOf('/', at + 1);
      pieces.push(text.slice(at, next < 0 ? text.length : next));
      at = next < 0 ? text.length : next;
      continue;
    }
    const close = text.indexOf(block ? '*/' : '\n', at + 2);
    const end = close < 0 ? text.length : close + (block ? 2 : 0);
    pieces.push(text.slice(at, end).replace(/[^\n]/g, ' '));
    at = end;
  }
  const lines = pieces.join('').split('\n');
  return lines.map((line) => (line.length > LONGEST_LINE ? '' : line)).join('\n');
}

const NUMBER = /^(?:0[xX][\dA-Fa-f]+|0[bB][01]+|\d+)$/;
const NAME = /^[A-Za-z_][\w.]*(?:->\w+)*(?:\[\d+\])?$/;

/** A register and its value as debuggers list them, "TCCR1A  0x82" or "TIM2->ARR: 999", as an assignment. */
function listedValue(line: string): string | undefined {
  const [name = '', value = '', ...others] = line.trim().replace(':', ' ').split(/\s+/);
  return others.length === 0 && NAME.test(name) && NUMBER.test(value) ? `${name} = ${value};` : undefined;
}

/** Words alone, as over a table. */
function isHeading(line: string): boolean {
  return /^[A-Za-z ]+$/.test(line.trim().replace(/\t/g, ' '));
}

/** How many more parentheses a text opens than it closes. */
function openIn(text: string): number {
  return [...text].reduce((open, sign) => open + (sign === '(' ? 1 : sign === ')' ? -1 : 0), 0);
}

/** Whether a line is a whole assignment but for its semicolon. */
function endsOpen(line: string): boolean {
  const plain = line.trim();
  const at = plain.indexOf('=');
  if (at <= 0 || plain.charAt(at + 1) === '=' || /[;{}#]/.test(plain)) return false;
  if (!/^[A-Za-z_*(]/.test(plain) || !/[\w)\]]$/.test(plain) || openIn(plain) !== 0) return false;
  return !/[!<>=]$/.test(plain.slice(0, at)) || /(?:<<|>>)$/.test(plain.slice(0, at));
}

/** Lines as C: listed values become assignments, and an assignment that ends with its line gets the semicolon it lacks. */
function asStatements(text: string): string {
  const lines = text.replace(/\b(__interrupt)\s*\([^)\n]*\)/g, '$1').split('\n');
  return lines
    .map((line, at) => {
      const listed = listedValue(line);
      if (listed !== undefined) return listed;
      const next = lines.slice(at + 1).find((one) => one.trim() !== '');
      if (isHeading(line) && next !== undefined && listedValue(next) !== undefined) return '';
      const goesOn = next !== undefined && /^\s*[-+*/%|&^<>=?:.,)]/.test(next);
      return endsOpen(line) && !goesOn ? `${line};` : line;
    })
    .join('\n');
}

/** A line "#define NAME(a, b) text". */
function readDefine(reading: Reading, node: SyntaxNode): void {
  const line = slice(reading, node).replace(/\\\n/g, ' ').trim();
  const after = /^#\s*define\b/.exec(line)?.[0];
  if (after === undefined) return;
  const rest = line.slice(after.length).trim();
  const [name] = /^[A-Za-z_]\w*/.exec(rest) ?? [];
  if (name === undefined) return;
  const body = rest.slice(name.length);
  const close = body.startsWith('(') ? body.indexOf(')') : -1;
  const parameters =
    close < 0
      ? undefined
      : body
          .slice(1, close)
          .split(',')
          .map((one) => one.trim());
  const text = (close < 0 ? body : body.slice(close + 1)).trim();
  reading.defines.set(name, { text, ...(parameters ? { parameters } : {}) });
}

/** The names of an enumeration, each with an expression: its own, or one more than the name before. */
function readEnum(reading: Reading, node: SyntaxNode): void {
  let before: string | undefined;
  for (const one of node.getChild('EnumeratorList')?.getChildren('Enumerator') ?? []) {
    const [name = '', ...value] = slice(reading, one).split('=');
    const own = value.length > 0 ? value.join('=').trim() : before === undefined ? '0' : `(${before}) + 1`;
    reading.enums.set(name.trim(), own);
    before = own;
  }
}

const LOOPS = new Set(['ForStatement', 'WhileStatement', 'DoStatement', 'ForRangeLoop']);
const HOLDERS = new Set(['CompoundStatement', 'LabeledStatement', 'CaseStatement', 'ElseClause']);

/** The statements of a node that is not a simple one. */
function innerSteps(reading: Reading, node: SyntaxNode, depth: number): Step[] {
  return childrenOf(node).flatMap((child) => stepsOf(reading, child, depth + 1));
}

function choiceOf(reading: Reading, node: SyntaxNode, depth: number): Step {
  const clause = node.getChild('ConditionClause');
  const condition = clause ? slice(reading, clause) : '';
  const parts = childrenOf(node).filter(({ name }) => name !== 'ConditionClause' && name !== 'if');
  const at = parts.findIndex(({ name }) => name === 'else');
  const [before, after] = at < 0 ? [parts, []] : [parts.slice(0, at), parts.slice(at + 1)];
  const steps = (list: readonly SyntaxNode[]): Step[] =>
    list.flatMap((one) => stepsOf(reading, one, depth + 1));
  return {
    do: 'choice',
    line: reading.lineAt(node.from),
    condition,
    then: steps(before),
    otherwise: steps(after),
  };
}

/** The steps of a statement; several simple ones where an error runs two of them together. */
function stepsOf(reading: Reading, node: SyntaxNode, depth = 0): Step[] {
  const { name } = node;
  if (depth > DEEPEST) return [];
  if (name === 'PreprocDirective') {
    readDefine(reading, node);
    return [];
  }
  if (name === 'EnumSpecifier') readEnum(reading, node);
  if (HOLDERS.has(name)) return innerSteps(reading, node, depth);
  if (LOOPS.has(name)) {
    const body = childrenOf(node).filter((child) => /Statement$/.test(child.name));
    const steps = body.flatMap((child) => stepsOf(reading, child, depth + 1));
    return [{ do: 'loop', line: reading.lineAt(node.from), steps }];
  }
  if (name === 'IfStatement') return [choiceOf(reading, node, depth)];
  if (name === 'SwitchStatement') {
    // Which case it is only the running program knows; all of them stand under the condition.
    const then = innerSteps(reading, node, depth);
    return [{ do: 'choice', line: reading.lineAt(node.from), condition: 'switch', then, otherwise: [] }];
  }
  if (name === 'LinkageSpecification') return innerSteps(reading, node, depth);
  if (
    !/^(ExpressionStatement|Declaration|AssignmentExpression|UpdateExpression|CallExpression|BinaryExpression)$/.test(
      name,
    )
  )
    return [];
  return simpleSteps(reading, node);
}

/** A statement as written, cut where an error runs on into the next line. */
function simpleSteps(reading: Reading, node: SyntaxNode): Step[] {
  const text = slice(reading, node);
  let from = node.from;
  return text.split(';').flatMap((piece): Step[] => {
    const start = from + (piece.length - piece.trimStart().length);
    from += piece.length + 1;
    return piece.trim() === '' ? [] : [{ do: 'simple', text: piece.trim(), line: reading.lineAt(start) }];
  });
}

/** Heads of handlers: macros with the vector as their argument, and names that end so. */
const HANDLER_MACRO = /^(?:ISR|SIGNAL|INTERRUPT)$/;
const HANDLER_ENDS = ['_IRQHandler', '_Handler', '_handler', '_isr', '_ISR', '_irq'];

/** The vector in the name of a handler, by its ending; empty for one that is only called so. */
function handlerName(name: string): string | undefined {
  const ending = HANDLER_ENDS.find((one) => name.endsWith(one));
  if (ending !== undefined) return name.slice(0, -ending.length);
  return name === 'isr' || name === 'ISR' ? '' : undefined;
}

/** The last word of a text: of a parameter its name. */
function lastWord(text: string): string {
  return text.split(/\W+/).filter(Boolean).at(-1) ?? '';
}

/** The declarator of a function, also where its result is a pointer or an error stands before it. */
function declaratorOf(node: SyntaxNode): SyntaxNode | undefined {
  for (let at: SyntaxNode | null = node; at; at = at.getChild('PointerDeclarator')) {
    const found = at.getChild('FunctionDeclarator');
    if (found) return found;
  }
  return undefined;
}

function functionOf(reading: Reading, node: SyntaxNode): FunctionText | undefined {
  const body = node.getChild('CompoundStatement');
  const declarator = declaratorOf(node);
  const list = declarator?.getChild('ParameterList');
  if (!body || !declarator || !list) return undefined;
  const name = lastWord(reading.text.slice(declarator.from, list.from));
  const head = reading.text.slice(node.from, body.from);
  const inside = reading.text.slice(list.from + 1, list.to - 1).trim();
  const isMacro = HANDLER_MACRO.test(name);
  const marked = /\b(?:__interrupt|interrupt)\b/.test(head);
  const vector = isMacro ? inside.split(',')[0]?.trim() : (handlerName(name) ?? (marked ? '' : undefined));
  const given = isMacro || inside === '' || inside === 'void' ? [] : inside.split(',').map(lastWord);
  return {
    name: isMacro ? `${name}(${vector ?? ''})` : name,
    line: reading.lineAt(node.from),
    parameters: given,
    ...(vector === undefined ? {} : { handler: vector }),
    steps: innerSteps(reading, body, 0),
  };
}

/** Where lines begin, to tell the line of a place. */
function linesOf(text: string): (at: number) => number {
  const starts = [0];
  for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) starts.push(at + 1);
  return (at) => {
    let [low, high] = [0, starts.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if ((starts[middle] ?? 0) <= at) low = middle;
      else high = middle - 1;
    }
    return low + 1;
  };
}

/**
 * Takes a text of C apart, as far as it is C: definitions, enumerations, functions with their statements in order, and loose
 * statements. Errors of syntax cost the statement they are in and nothing else. Never throws.
 */
export function programText(source: string): ProgramText {
  const text = asStatements(withoutComments(source));
  const reading: Reading = { text, lineAt: linesOf(text), defines: new Map(), enums: new Map() };
  const functions: FunctionText[] = [];
  const loose: Step[] = [];
  const top = (node: SyntaxNode): void => {
    for (const child of childrenOf(node)) {
      if (child.name === 'FunctionDefinition') {
        const own = functionOf(reading, child);
        if (own) functions.push(own);
      } else if (child.name === 'LinkageSpecification' || child.name === 'DeclarationList') top(child);
      else loose.push(...stepsOf(reading, child));
    }
  };
  // The grammar takes ~NAME for a destructor; for the tree, any sign of one character does as well.
  top(parser.parse(text.replace(/~(?=\s*[A-Za-z_])/g, '-')).topNode);
  const lines = text.split('\n').filter((line) => line.trim() !== '').length;
  return { defines: reading.defines, enums: reading.enums, functions, loose, plain: text, lines };
}
