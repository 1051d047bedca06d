import vm from 'node:vm';

const { compileFunction } = vm;
let scripts = new Map();

/** Forgets what was compiled, so that it is compiled anew: V8 notes only what it has compiled since it was asked to. */
export function compileAnew() {
  scripts = new Map();
}

/** Where the text of a module begins in the script that is made of it, by the script's name. */
export function headOf(filename) {
  return scripts.get(filename)?.head ?? 0;
}

/**
 * Jest compiles every module anew for every test file. Here a process compiles each once, and its test files share V8's
 * code for it; each still runs it for itself, in its own context.
 */
vm.compileFunction = (source, parameters, options) => {
  const { filename, parsingContext } = options;
  if (!parsingContext) return compileFunction(source, parameters, options);
  let known = scripts.get(filename);
  if (known?.source !== source) {
    const head = `(function (${parameters.join(', ')}) {`;
    const script = new vm.Script(`${head}${source}\n})`, { filename });
    known = { source, script, head: head.length };
    scripts.set(filename, known);
  }
  return known.script.runInContext(parsingContext);
};
