import './compile-once.mjs';

export { TestEnvironment as default } from 'jest-environment-node';
