import tseslint from 'typescript-eslint';
import next from 'eslint-config-next/core-web-vitals';
import sonarjs from 'eslint-plugin-sonarjs';
import regexp from 'eslint-plugin-regexp';
import { FEATURES, STAGES } from './scripts/structure.mjs';

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

/** An `import()` is not seen by no-restricted-imports, so the core may use it for its own part data only. */
const noDynamicImport = {
  selector: 'ImportExpression[source.value!=/^\\.\\u002Fparts\\u002F/]',
  message: 'The core imports statically, except part data (./parts/), which is loaded part by part.',
};

const stageRules = STAGES.map((stage, at) => {
  const later = STAGES.slice(at + 1);
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

/** What uses the core imports its public surface, and the parts one by one. */
const coreSurface = {
  regex: '^@herzschlag/core/(?!parts/)|(^|/)core/src/',
  message: 'Only @herzschlag/core and @herzschlag/core/parts/… are public.',
};

/** A feature of the interface imports from what all share, not from another feature; what all share imports none. */
const featureRules = FEATURES.map((feature) => ({
  files: [`web/src/features/${feature}/**`],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          coreSurface,
          {
            group: FEATURES.filter((other) => other !== feature).flatMap((other) => [
              `../${other}/*`,
              `**/features/${other}/**`,
            ]),
            message: 'A feature does not import from another; move what both need to components.',
          },
          { group: ['**/app/**'], message: 'A feature does not import from a page.' },
        ],
      },
    ],
  },
}));

export default tseslint.config(
  {
    ignores: [
      '**/node_modules/**',
      '**/.next/**',
      '**/next-env.d.ts',
      '.cache/**',
      'out/**',
      'coverage/**',
      'core/test/**',
    ],
  },
  // The rules for all TypeScript are in .oxlintrc.json. The core's tests have no others, so ESLint leaves them out.
  { ...tseslint.configs.base, files: ['**/*.{ts,tsx}'] },
  ...tseslint.configs.recommended.map((config) => ({ ...config, files: ['**/*.mjs'] })),
  {
    // Tests hold the product against plain loops, which are complex on purpose.
    files: ['{core,web,cli}/src/**/*.{ts,tsx}', '{cli,bench,e2e,scripts}/**/*.{ts,mjs}'],
    plugins: { sonarjs },
    rules: { 'sonarjs/cognitive-complexity': ['error', 20] },
  },
  {
    // What is read from outside may be long: an expression takes time in proportion to its text, whatever the text.
    files: ['{core,web,cli}/src/**/*.{ts,tsx}'],
    plugins: { regexp },
    rules: {
      'regexp/no-super-linear-backtracking': ['error', { report: 'potential' }],
      'regexp/no-super-linear-move': ['error', { report: 'potential' }],
    },
  },
  ...next
    .filter((config) => !('ignores' in config) || 'rules' in config)
    .map((config) => ({
      ...config,
      files: ['web/**/*.{ts,tsx}'],
      settings: { ...config.settings, next: { rootDir: 'web' }, react: { version: '19.3' } },
    })),
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
  {
    files: ['web/**', 'cli/**', 'bench/**', 'e2e/**'],
    rules: { 'no-restricted-imports': ['error', { patterns: [coreSurface] }] },
  },
  {
    files: ['web/src/{components,state,worker,theme}/**'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            coreSurface,
            {
              group: ['**/features/**', '**/app/**'],
              message: 'What all share imports no feature and no page.',
            },
          ],
        },
      ],
    },
  },
  ...featureRules,
);
