import vm from 'node:vm';

const { compileFunction } = vm;
const scripts = new Map();
let anew = false;

/** Whether the next test file has its scripts compiled for itself, as V8 needs to note what it reaches of them. */
export function compileAnew(wanted) {
  anew = wanted;
}

/**
 * Jest compiles every module anew for every test file. Here a process compiles each once, and its test files share V8's
 * code for it; each still runs it for itself, in its own context.
 */
vm.compileFunction = (source, parameters, options) => {
  if (anew) return compileFunction(source, parameters, options);
  const { filename, parsingContext } = options;
  let known = scripts.get(filename);
  if (known?.source !== source) {
    const script = new vm.Script(`(function (${parameters.join(', ')}) {${source}\n})`, { filename });
    known = { source, script };
    scripts.set(filename, known);
  }
  return known.script.runInContext(parsingContext);
};
