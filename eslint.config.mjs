import tseslint from 'typescript-eslint';
import next from 'eslint-config-next/core-web-vitals';

/**
 * The core's stages in the order the data runs. A stage imports only from stages above it in this list;
 * `quantity` is the first and open to all.
 */
const stages = [
  'result',
  'quantity',
  'part',
  'clock',
  'signal',
  'timer',
  'plan',
  'wave',
  'cpu',
  'load',
  'check',
  'fit',
  'assign',
  'slips',
  'codegen',
  'evaluate',
  'resolve',
  'capture',
  'decode',
  'io',
];

const outside = [
  {
    group: [
      'react',
      'react-*',
      'next',
      'next/*',
      '@mui/*',
      '@emotion/*',
      'd3',
      'd3-*',
      '!d3-dsv',
      'dexie',
      'dexie-*',
      'comlink',
    ],
    message: 'The core has no interface code.',
  },
  {
    group: [
      'node:*',
      'fs',
      'fs/*',
      'path',
      'os',
      'child_process',
      'worker_threads',
      'process',
      'crypto',
      'url',
      'util',
    ],
    message: 'The core uses no Node API.',
  },
  {
    group: ['@herzschlag/*', '**/web/**', '**/cli/**', '**/e2e/**'],
    message: 'The core imports nothing from the packages that use it.',
  },
];

/** An `import()` with one of these names would pass no-restricted-imports, so core has no dynamic import at all. */
const noDynamicImport = {
  selector: 'ImportExpression',
  message: 'The core imports statically; the packages that use it decide what to load when.',
};

const stageRules = stages.map((stage, at) => {
  const later = stages.slice(at + 1);
  return {
    files: [`core/src/${stage}/**/*.ts`],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            ...outside,
            ...(later.length
              ? [
                  {
                    group: later.map((name) => `**/${name}/**`),
                    message: `${stage} comes before these stages.`,
                  },
                ]
              : []),
            {
              group: ['**/core/src/index.ts', '../index.ts'],
              message: 'A stage imports from a stage, not from the package.',
            },
          ],
        },
      ],
    },
  };
});

export default tseslint.config(
  { ignores: ['**/node_modules/**', '**/.next/**', '**/next-env.d.ts', '.cache/**'] },
  ...tseslint.configs.recommended,
  ...next
    .filter((config) => !('ignores' in config) || 'rules' in config)
    .map((config) => ({
      ...config,
      files: ['web/**/*.{ts,tsx}'],
      settings: { ...config.settings, next: { rootDir: 'web' }, react: { version: '19.3' } },
    })),
  {
    files: ['**/*.{ts,tsx}'],
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/consistent-type-imports': 'error',
      'no-console': 'error',
      eqeqeq: 'error',
    },
  },
  { files: ['scripts/**', 'cli/**', 'bench/**', 'e2e/**'], rules: { 'no-console': 'off' } },
  {
    files: ['core/src/**/*.ts'],
    rules: {
      'no-restricted-imports': ['error', { patterns: outside }],
      'no-restricted-syntax': ['error', noDynamicImport],
      'no-restricted-globals': [
        'error',
        'window',
        'document',
        'navigator',
        'self',
        'process',
        'Buffer',
        'setTimeout',
        'setInterval',
        'fetch',
        'performance',
        'console',
      ],
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random', message: 'The core is deterministic.' },
        { object: 'Date', property: 'now', message: 'The core is deterministic.' },
      ],
    },
  },
  ...stageRules,
);
