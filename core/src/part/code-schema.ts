import Joi from 'joi';
import { INHERITED } from '../result/inherited.ts';
import { lazily } from '../result/lazily.ts';

/** Words that C keeps for itself cannot be the name of a register, of a field or of a vector. */
const KEYWORD =
  /^(?:auto|break|case|char|const|continue|default|do|double|else|enum|extern|float|for|goto|if|inline|int|long|register|return|short|signed|sizeof|static|struct|switch|typedef|union|unsigned|void|volatile|while|main|asm)$/;

/** A name that stands in generated code as it is. */
export const identifierSchema = lazily(() =>
  Joi.string()
    .pattern(/^[A-Za-z_][A-Za-z0-9_]*$/, 'identifier')
    .pattern(KEYWORD, { name: 'identifier', invert: true })
    .invalid(...INHERITED)
    .max(80),
);

/**
 * What a part file says of its compiler's habits. Code comes from templates: a function or macro with the name of the vector
 * in its place, one call or one instruction that lets interrupts happen, headers by relative paths.
 */
const HEADER = /^(?:<[A-Za-z0-9_]+(?:[./-][A-Za-z0-9_]+)*\.h>|"[A-Za-z0-9_]+(?:[./-][A-Za-z0-9_]+)*\.h")$/;
const HANDLER = /^(?:void %[A-Za-z0-9_]*\(void\)|[A-Z_]{1,20}\(%[A-Za-z0-9_]*\))$/;
const CALL = /^%[A-Za-z0-9_]*\(\)$/;
const ALLOW =
  /^(?:[a-z_][a-z0-9_]*\(\);|__asm volatile \("[a-z0-9 ,]{1,40}"(?: ::: "[a-z0-9]{1,8}")?\);|[A-Z][A-Z0-9_]* \|= 0x[0-9A-F]{1,8}u;(?: \/\* [A-Z0-9_]{1,20} \*\/)?)$/;

/** How the compilers of a part take code. */
export const codeSchema = lazily(() => {
  const header = Joi.string().pattern(HEADER, 'header').max(120);
  return Joi.object({
    headers: Joi.array().items(header).max(20).required(),
    registers: Joi.string().valid('names', 'addresses').default('addresses'),
    device: Joi.object({
      header: Joi.alternatives().try(header, Joi.array().items(header).min(1).max(10)).required(),
      gives: Joi.string().valid('addresses'),
      names: Joi.array()
        .items(
          Joi.object({
            registers: Joi.string()
              .pattern(/^[A-Za-z0-9_#@*]+$/, 'rule')
              .max(60)
              .required(),
            as: Joi.string()
              .pattern(
                /^(?:\*(?:[A-Za-z0-9_]*)|[A-Za-z_@][A-Za-z0-9_#@*]*(?:(?:->|\.)[A-Za-z0-9_#@*]+|\[[0-9#]+\])*(?:\([0-9#]+\))?)$/,
                'place',
              )
              .max(80)
              .required(),
          }),
        )
        .max(40)
        .required(),
    }),
    handler: Joi.string().max(120).pattern(HANDLER, 'handler').default('void %_handler(void)'),
    call: Joi.string().max(120).pattern(CALL, 'handler').default('%_handler()'),
    setsClock: Joi.boolean().default(false),
    bytewise: Joi.boolean().default(false),
    readsBack: Joi.boolean(),
    macros: Joi.object().pattern(
      identifierSchema(),
      Joi.number()
        .integer()
        .min(0)
        .max(2 ** 32 - 1),
    ),
    aliases: Joi.array()
      .items(Joi.object({ registers: Joi.string().max(80).required(), as: Joi.string().max(80).required() }))
      .max(40),
    excludes: Joi.string().valid('avr', 'intcon', 'primask', 'cpsr', 'xtensa'),
    routing: Joi.string().max(200),
    assembler: Joi.string().valid('avr'),
    assembly: Joi.object({
      family: Joi.string().valid('pic14', 'pic14e', 'pic18').required(),
      device: Joi.string()
        .pattern(/^[a-z0-9]+$/, 'device')
        .max(40)
        .required(),
    }),
    tables: Joi.string().valid('pgmspace'),
    compiler: Joi.object({
      family: Joi.string().valid('avr', 'thumb').required(),
      device: Joi.when('family', {
        is: 'thumb',
        then: Joi.string().valid('cortex-m0plus', 'cortex-m4').required(),
        otherwise: Joi.string()
          .pattern(/^[a-z0-9]+$/, 'device')
          .max(40)
          .required(),
      }),
      wide: Joi.boolean(),
    }),
    allow: Joi.string().allow('').max(120).pattern(ALLOW, 'instruction').default(''),
  });
});
